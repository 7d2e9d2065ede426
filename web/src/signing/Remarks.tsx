import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { kindsQuery } from "../api/queries";
import { useAnswerRemark, type Remark } from "../api/remarks";
import type { Signing } from "../api/signing";
import { Trouble } from "../ui/Trouble";
import { moment } from "../ui/words";

/** Guests' remarks, each to be answered in words, or made a finding. */
export function Remarks({ signing }: { signing: Signing }) {
  if (signing.remarks.length === 0) return null;
  return (
    <section className="rule-top py-2" aria-label="Remarks of guests">
      <h2 className="text-[1rem]">Remarks of guests</h2>
      <ul className="m-0 list-none p-0">
        {signing.remarks.map((one) => (
          <li key={one.id} className="py-1">
            <strong>{one.person}</strong>: {one.words}{" "}
            <span className="small">
              of attempt {one.attempt}
              {one.place ? ` at ${one.place.map(Math.round).join(", ")}` : ", of the whole"},{" "}
              {moment(one.made_at)}
            </span>
            {one.answered_at ? (
              <span className="block">
                {one.answered_by} answered: {one.answer || "nothing in words"}
                {one.kind ? `; it became a finding: ${one.kind}` : ""}
              </span>
            ) : (
              <Answering signing={signing} remark={one} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The region that a place lies in, or the nearest. */
const nearest = (signing: Signing, [x = 0, y = 0]: readonly number[]) =>
  [...signing.places].sort((one, other) => {
    const away = ([left = 0, top = 0, width = 0, height = 0]: readonly number[]) =>
      Math.hypot(Math.max(left - x, 0, x - left - width), Math.max(top - y, 0, y - top - height));
    return away(one.bbox) - away(other.bbox);
  })[0];

function Answering({ signing, remark }: { signing: Signing; remark: Remark }) {
  const answer = useAnswerRemark(signing.picture);
  const kinds = useQuery(kindsQuery).data ?? [];
  const [words, setWords] = useState("");
  const [kind, setKind] = useState("");
  const region = remark.place ? nearest(signing, remark.place) : undefined;
  const may = (words.trim() !== "" || kind !== "") && !answer.isPending;
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (may)
          answer.mutate({
            id: remark.id,
            words,
            severity: "clear",
            ...(kind && region ? { kind, region: region.id } : {}),
          });
      }}
    >
      <label className="flex min-w-[16rem] flex-1 flex-col">
        answer
        <input
          className="field"
          maxLength={4000}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      {region && (
        <span className="flex flex-col">
          <span id={`flaw-${remark.id}`}>a finding in {region.name}</span>
          <select
            className="field"
            aria-labelledby={`flaw-${remark.id}`}
            value={kind}
            onChange={(event) => setKind(event.target.value)}
          >
            <option value="">none</option>
            {kinds.map((one) => (
              <option key={one.name} value={one.name}>
                {one.name}
              </option>
            ))}
          </select>
        </span>
      )}
      <button type="submit" className="plain" aria-disabled={!may}>
        answer it
      </button>
      <Trouble error={answer.error} />
    </form>
  );
}
