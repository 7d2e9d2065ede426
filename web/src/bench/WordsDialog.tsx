import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";

type Props = {
  open: boolean;
  onClose: () => void;
  /** What is spoken of. */
  about: string;
  words: string;
  busy: boolean;
  error: Error | null;
  onSay: (words: string) => void;
};

/** Words put to a ruling or a finding. */
export function WordsDialog(props: Props) {
  const { open, onClose, about } = props;
  return (
    <Dialog open={open} onClose={onClose} title={`Words on ${about}`}>
      {open && <Form {...props} />}
    </Dialog>
  );
}

function Form({ words, busy, error, onSay }: Props) {
  const [said, setSaid] = useState(words);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!busy) onSay(said);
      }}
    >
      <label className="block">
        in your words
        <textarea
          className="field block w-full"
          rows={4}
          maxLength={2000}
          value={said}
          onChange={(event) => setSaid(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter" && (event.ctrlKey || event.metaKey))
              event.currentTarget.form?.requestSubmit();
          }}
        />
      </label>
      <p className="small">They go along on a slip and in the record.</p>
      <button type="submit" className="plain" aria-disabled={busy}>
        keep it <span className="key">Ctrl Enter</span>
      </button>
      <Trouble error={error} />
    </form>
  );
}
