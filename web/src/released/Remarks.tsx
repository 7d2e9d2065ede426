import { useState } from "react";
import type { Shapes } from "../api/client";
import { useAnswerSecond } from "../api/seconds";
import { useRemark, type Remark } from "../api/remarks";
import { Trouble } from "../ui/Trouble";
import { moment } from "../ui/words";

type Asked = Shapes["QuestionOf"];

/** What a guest is asked about the framed place, and their answer. */
function Question({ question }: { question: Asked }) {
  const answer = useAnswerSecond();
  const [words, setWords] = useState("");
  return (
    <form
      className="mb-2 border p-2"
      style={{ borderColor: "var(--ink)" }}
      aria-label={`asked by ${question.by}`}
      onSubmit={(event) => {
        event.preventDefault();
        if (words.trim() && !answer.isPending) answer.mutate({ id: question.id, words });
      }}
    >
      <p className="m-0">
        <strong>{question.by} asks of the framed place:</strong> {question.words}
      </p>
      <label className="block">
        your answer
        <textarea
          className="field block w-full"
          rows={2}
          maxLength={4000}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      <button type="submit" className="plain mt-1" aria-disabled={!words.trim()}>
        answer
      </button>
      <Trouble error={answer.error} />
    </form>
  );
}

/** What a guest said of a picture, and saying something more. */
export function Remarks({
  release,
  remarks,
  questions,
  place,
  onPlace,
}: {
  release: number;
  remarks: Remark[];
  questions: Asked[];
  /** Where the next remark is about; null: the whole picture. */
  place: number[] | null;
  onPlace: (place: number[] | null) => void;
}) {
  const say = useRemark(release);
  const [words, setWords] = useState("");
  return (
    <section
      className="scrolls h-full border-l px-3 py-2"
      style={{ borderColor: "var(--line)" }}
      aria-label="Remarks"
    >
      {questions
        .filter((one) => !one.answered)
        .map((one) => (
          <Question key={one.id} question={one} />
        ))}
      <h2 className="m-0 text-[1rem]">Remarks</h2>
      {remarks.length === 0 && (
        <p className="m-0">
          Click a place in the picture to say something of it, or write about the whole.
        </p>
      )}
      <ol className="m-0 list-none p-0">
        {remarks.map((one, number) => (
          <li key={one.id} className="rule-top py-1">
            <strong>{number + 1}</strong> {one.words}
            <span className="block small">
              {one.place ? "" : "of the whole; "}
              {moment(one.made_at)}
            </span>
            {one.answered_at ? (
              <span className="block">
                {one.answered_by}: {one.answer || "will be mended"}
              </span>
            ) : (
              <span className="block small">not answered yet</span>
            )}
          </li>
        ))}
      </ol>
      <form
        className="rule-top mt-1 py-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (words.trim() && !say.isPending)
            say.mutate(
              { words, place },
              {
                onSuccess: () => {
                  setWords("");
                  onPlace(null);
                },
              },
            );
        }}
      >
        <label className="block">
          {place ? "of the marked place" : "of the whole picture"}
          <textarea
            className="field block w-full"
            rows={3}
            maxLength={4000}
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        </label>
        <div className="mt-1 flex gap-3">
          <button type="submit" className="plain" aria-disabled={!words.trim() || say.isPending}>
            say it
          </button>
          {place && (
            <button type="button" className="quiet" onClick={() => onPlace(null)}>
              of the whole instead
            </button>
          )}
        </div>
        <Trouble error={say.error} />
      </form>
    </section>
  );
}
