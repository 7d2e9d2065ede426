import type { Attempt } from "../api/client";

/** How far the machine is with an attempt, and what it has to say before any flaw. */
export function CheckState({
  attempt,
  mayRule,
  onAsk,
}: {
  attempt: Attempt;
  mayRule: boolean;
  onAsk: () => void;
}) {
  const check = attempt.check_of;
  const ask = (words: string) =>
    mayRule && (
      <button type="button" className="plain" onClick={onAsk}>
        {words}
      </button>
    );
  if (!check) return <p className="m-0">Not checked. {ask("check it")}</p>;
  if (check.state === "waiting" || check.state === "running")
    return (
      <p role="status" className="m-0">
        Being checked{check.words ? `: ${check.words}` : ""}{" "}
        <progress
          className="block h-2 w-full"
          max={1}
          value={check.progress}
          aria-label="check"
          style={{ accentColor: "#000" }}
        />
      </p>
    );
  if (check.state === "failed")
    return (
      <p role="alert" className="m-0">
        The check failed: {check.reason}. {ask("check again")}
      </p>
    );
  return (
    <>
      {check.overall === null && (
        <p role="alert" className="m-0">
          Cannot be judged by the machine: {check.reason}.
        </p>
      )}
      {check.about.map((words) => (
        <p key={words} className="small m-0">
          {words}
        </p>
      ))}
    </>
  );
}
