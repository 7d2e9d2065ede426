import { useState } from "react";
import type { Bench, Cell, Region } from "../api/client";
import { useSeconds } from "../api/seconds";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";

type Props = {
  bench: Bench;
  askedSize: number | null;
  cell: Cell;
  region: Region;
  open: boolean;
  onClose: () => void;
};

/** A second pair of eyes: another supervisor rules without seeing what was ruled; a guest answers in words. */
export function AskDialog(props: Props) {
  const { bench, cell, region, open, onClose } = props;
  const attempt = bench.attempts.find((one) => one.id === cell.attempt);
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={`Ask about ${region.name} in attempt ${attempt?.number ?? ""}`}
    >
      {open && <Form {...props} />}
    </Dialog>
  );
}

function Form({ bench, askedSize, cell, onClose }: Props) {
  const { ask } = useSeconds(bench.id, askedSize);
  const [person, setPerson] = useState(bench.askable[0]?.id ?? null);
  const [words, setWords] = useState("");
  const chosen = bench.askable.find((one) => one.id === person);
  const guest = chosen?.role === "guest";
  if (!chosen) return <p className="m-0">Nobody else rules in this job, and it has no guests.</p>;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!ask.isPending)
          ask.mutate({ cell: cell.id, person: chosen.id, words }, { onSuccess: onClose });
      }}
    >
      <label className="block">
        whom
        <select
          className="field block w-full"
          value={chosen.id}
          onChange={(event) => setPerson(Number(event.target.value))}
        >
          {bench.askable.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}, {one.role}
            </option>
          ))}
        </select>
      </label>
      <label className="mt-2 block">
        what about it
        <textarea
          className="field block w-full"
          rows={3}
          maxLength={2000}
          required={guest}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      <p className="small">
        {guest
          ? "They will see this attempt, before and after, with your question; what they say is kept as a remark."
          : "They rule without seeing what was ruled; then both are shown."}
      </p>
      <button type="submit" className="plain" aria-disabled={ask.isPending}>
        ask {chosen.name}
      </button>
      <Trouble error={ask.error} />
    </form>
  );
}
