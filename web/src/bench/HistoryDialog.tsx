import { useQuery } from "@tanstack/react-query";
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

/** What was said and done on a picture, newest first. */
export function HistoryDialog({
  picture,
  open,
  onClose,
}: {
  picture: number;
  open: boolean;
  onClose: () => void;
}) {
  const history = useQuery({ ...historyQuery(picture), enabled: open });
  return (
    <Dialog open={open} onClose={onClose} title="What was said and done" wide>
      {history.isPending && <p role="status">Reading …</p>}
      {history.isError && <p role="alert">{history.error.message}</p>}
      {history.data && (
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
            {history.data.map((entry) => (
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
    </Dialog>
  );
}
