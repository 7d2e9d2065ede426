import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { searchOf, tallyQuery, type Tally, type TallyAsked } from "../api/tally";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { Interval } from "./Interval";
import { minutes, shareWords } from "./words";

const PERIODS: [string, number | null][] = [
  ["ever", null],
  ["the last 7 days", 7],
  ["the last 30 days", 30],
  ["the last year", 365],
];

const whole = (text: string | null) => (text && /^[0-9]+$/.test(text) ? Number(text) : null);

/** Which method holds on what, and what it takes. */
export function TallyPage() {
  const [said, say] = useSearchParams();
  const asked: TallyAsked = {
    job: whole(said.get("job")),
    days: whole(said.get("days")),
    by: said.get("by") === "maker" ? "maker" : "method",
  };
  const tally = useQuery(tallyQuery(asked));
  const ask = (part: Partial<TallyAsked>) =>
    say(new URLSearchParams(searchOf({ ...asked, ...part })), { replace: true });
  if (tally.isPending) return <Notice title="Counting …" busy />;
  if (!tally.data)
    return (
      <Notice title="The Tally cannot be shown" alert>
        {tally.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void tally.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto text-xl">Tally</h1>
        <select
          className="field"
          aria-label="job"
          value={asked.job ?? ""}
          onChange={(event) => ask({ job: whole(event.target.value) })}
        >
          <option value="">all jobs of yours</option>
          {tally.data.jobs.map((job) => (
            <option key={job.id} value={job.id}>
              {job.name}
            </option>
          ))}
        </select>
        <select
          className="field"
          aria-label="time"
          value={asked.days ?? ""}
          onChange={(event) => ask({ days: whole(event.target.value) })}
        >
          {PERIODS.map(([words, days]) => (
            <option key={words} value={days ?? ""}>
              {words}
            </option>
          ))}
        </select>
        <select
          className="field"
          aria-label="counted by"
          value={asked.by}
          onChange={(event) => ask({ by: event.target.value as TallyAsked["by"] })}
        >
          <option value="method">by method</option>
          <option value="maker">by maker</option>
        </select>
        <a
          className="plain text-inherit no-underline"
          href={`/api/tally/table/?${searchOf(asked)}`}
          download
        >
          as a table (CSV)
        </a>
      </div>
      {tally.data.rows.length === 0 ? (
        <Notice inside title="Nothing was ruled on yet">
          Once regions are ruled on at the Bench, this says which method held on which backdrop.
        </Notice>
      ) : (
        <Counted tally={tally.data} />
      )}
      <Advice tally={tally.data} />
    </main>
  );
}

/** Of a table whose rows have their heading in the first column. */
function Headings({ words }: { words: string[] }) {
  return (
    <>
      <td />
      {words.map((one) => (
        <th key={one} scope="col" className="py-1 pr-3 font-normal small">
          {one}
        </th>
      ))}
    </>
  );
}

function RowHeading({ words }: { words: string }) {
  return (
    <th scope="row" className="py-1 pr-3 text-left font-normal">
      {words}
    </th>
  );
}

function Counted({ tally }: { tally: Tally }) {
  const kinds = [...new Set(tally.kinds.map((one) => one.kind))].sort();
  return (
    <>
      <section className="mb-5" aria-label="Held at the first attempt">
        <h2 className="text-[1rem]">Held at the first attempt</h2>
        <p className="mt-0 small">
          The line says how many held; the bar, where the true share likely lies (95 %). A dashed
          bar rests on fewer than five.
        </p>
        <table className="w-full border-collapse">
          <tbody>
            {tally.names.map((name) => (
              <Rows key={name.name} tally={tally} name={name} />
            ))}
          </tbody>
        </table>
      </section>
      <section className="mb-5" aria-label="What it takes">
        <h2 className="text-[1rem]">What it takes</h2>
        <table className="w-full border-collapse">
          <thead>
            <tr className="text-left">
              <Headings
                words={["attempts ruled on", "until one holds", "time, median", "cost, median"]}
              />
            </tr>
          </thead>
          <tbody>
            {tally.names.map((name) => (
              <tr key={name.name} className="rule-top">
                <RowHeading words={name.name} />
                <td className="pr-3">{name.attempts}</td>
                <td className="pr-3">
                  {name.rounds === null ? "none held" : counted(name.rounds, "attempt")}
                </td>
                <td className="pr-3">{minutes(name.seconds)}</td>
                <td>{name.cost ?? "—"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {kinds.length > 0 && (
        <section className="mb-5" aria-label="Flaws that people saw">
          <h2 className="text-[1rem]">Flaws that people saw, of the regions ruled on</h2>
          <table className="border-collapse">
            <thead>
              <tr>
                <td />
                {kinds.map((kind) => (
                  <th key={kind} scope="col" className="px-2 py-1 font-normal small">
                    {kind}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {tally.names.map((name) => (
                <tr key={name.name} className="rule-top">
                  <RowHeading words={name.name} />
                  {kinds.map((kind) => {
                    const one = tally.kinds.find(
                      (found) => found.name === name.name && found.kind === kind,
                    );
                    return (
                      <td key={kind} className="px-2 text-center">
                        {one ? `${one.count} of ${one.of}` : "·"}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}

function Rows({ tally, name }: { tally: Tally; name: Tally["names"][number] }) {
  const rows = tally.rows.filter((row) => row.name === name.name);
  return (
    <>
      <tr className="rule-top">
        <th scope="row" className="py-1 pr-3 text-left">
          {name.name}
        </th>
        <td className="pr-3">{shareWords(name)}</td>
        <td>
          <Interval share={name} />
        </td>
      </tr>
      {rows.length > 1 &&
        rows.map((row) => (
          <tr key={row.backdrop}>
            <th scope="row" className="py-0.5 pr-3 pl-5 text-left font-normal small">
              on {row.backdrop}
            </th>
            <td className="pr-3 small">{shareWords(row)}</td>
            <td>
              <Interval share={row} />
            </td>
          </tr>
        ))}
    </>
  );
}

/** Whether what slips advise was followed, and whether it helped. */
function Advice({ tally }: { tally: Tally }) {
  if (tally.advice.length === 0) return null;
  return (
    <section className="mb-5" aria-label="Advice on slips">
      <h2 className="text-[1rem]">Advice on slips: what it answers was fixed</h2>
      <table className="w-full border-collapse">
        <thead>
          <tr className="text-left">
            <Headings words={["followed", "fixed where followed", "fixed where not"]} />
          </tr>
        </thead>
        <tbody>
          {tally.advice.map((one) => (
            <tr key={one.what} className="rule-top align-middle">
              <RowHeading words={one.words} />
              <td className="pr-3">
                {one.followed} of {one.asked}
              </td>
              <td className="pr-3">
                {shareWords(one.helped)}
                <Interval share={one.helped} />
              </td>
              <td>{shareWords(one.without)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
