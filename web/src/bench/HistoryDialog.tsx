import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { historyQuery } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { moment } from "../ui/words";

function said(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "string") return value;
  return Object.entries(value as Record<string, unknown>)
    .filter(([, one]) => one !== null && one !== "")
    .map(([name, one]) =>
      name === "ruling"
        ? String(one)
        : `${name} ${typeof one === "number" ? one.toLocaleString(undefined, { maximumFractionDigits: 2 }) : String(one)}`,
    )
    .join(", ");
}

/** What was said and done on a picture, newest first: what people decided, or what the machine did too. */
export function HistoryDialog({
  picture,
  open,
  onClose,
}: {
  picture: number;
  open: boolean;
  onClose: () => void;
}) {
  const history = useInfiniteQuery({ ...historyQuery(picture), enabled: open });
  const [machine, setMachine] = useState(false);
  const all = history.data?.pages.flatMap((page) => page.entries) ?? [];
  const entries = all.filter((entry) => machine || entry.person !== null);
  return (
    <Dialog open={open} onClose={onClose} title="What was said and done" wide>
      {history.isPending && <p role="status">Reading …</p>}
      {history.isError && <p role="alert">{history.error.message}</p>}
      {history.data && (
        <div className="mb-2 flex items-center gap-3">
          <div className="segments" role="group" aria-label="whose">
            <button type="button" aria-pressed={!machine} onClick={() => setMachine(false)}>
              people
            </button>
            <button type="button" aria-pressed={machine} onClick={() => setMachine(true)}>
              people and machine
            </button>
          </div>
          {!machine && entries.length === 0 && <span>Nobody has decided anything yet.</span>}
        </div>
      )}
      {entries.length > 0 && (
        <table className="w-full border-collapse text-left">
          <thead>
            <tr>
              <th scope="col">when</th>
              <th scope="col">who</th>
              <th scope="col">what</th>
              <th scope="col">about</th>
              <th scope="col">before</th>
              <th scope="col">after</th>
            </tr>
          </thead>
          <tbody>
            {entries.map((entry) => (
              <tr key={entry.id} className="rule-top align-top">
                <td className="whitespace-nowrap py-1 pr-3">{moment(entry.at)}</td>
                <td className="pr-3">{entry.person ?? "the machine"}</td>
                <td className="pr-3">{entry.what}</td>
                <td className="pr-3">{entry.about}</td>
                <td className="pr-3">{said(entry.before)}</td>
                <td>{said(entry.after)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {history.hasNextPage && (
        <button
          type="button"
          className="plain mt-2"
          disabled={history.isFetchingNextPage}
          onClick={() => void history.fetchNextPage()}
        >
          earlier
        </button>
      )}
    </Dialog>
  );
}
