import { useState } from "react";
import type { Bench, Region } from "../api/client";
import { useSeconds } from "../api/seconds";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";

type Props = {
  bench: Bench;
  askedSize: number | null;
  region: Region;
  open: boolean;
  onClose: () => void;
};

/** The thing stays: its region is none any more, and what an attempt did there is a change outside. */
export function LeaveDialog(props: Props) {
  const { region, open, onClose } = props;
  return (
    <Dialog open={open} onClose={onClose} title={`Let ${region.name} stay in the picture`}>
      {open && <Form {...props} />}
    </Dialog>
  );
}

function Form({ bench, askedSize, region, onClose }: Props) {
  const { leave } = useSeconds(bench.id, askedSize);
  const [words, setWords] = useState("");
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!leave.isPending) leave.mutate({ region: region.id, words }, { onSuccess: onClose });
      }}
    >
      <p className="mt-0">
        Every attempt is examined without this region; where the thing was removed it counts as
        changed outside, until the original is put back there. It can be taken in again.
      </p>
      <label className="block">
        why
        <textarea
          className="field block w-full"
          rows={2}
          maxLength={2000}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      <button type="submit" className="plain mt-2" aria-disabled={leave.isPending}>
        it stays
      </button>
      <Trouble error={leave.error} />
    </form>
  );
}
