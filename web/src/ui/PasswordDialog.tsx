import { useState } from "react";
import { useChangePassword } from "../api/queries";
import { Dialog } from "./Dialog";

/** Change one's own password; other sessions of the same person end with it. */
export function PasswordDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Change your password">
      {open && <Form onClose={onClose} />}
    </Dialog>
  );
}

function Form({ onClose }: { onClose: () => void }) {
  const change = useChangePassword();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({ old, new: fresh }, { onSuccess: onClose });
      }}
    >
      <p className="mt-0">At least ten characters, and none that are easily guessed.</p>
      <label className="mb-2 block">
        old password
        <input
          className="field block w-full"
          type="password"
          autoComplete="current-password"
          required
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
      </label>
      <label className="mb-3 block">
        new password
        <input
          className="field block w-full"
          type="password"
          autoComplete="new-password"
          required
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
        />
      </label>
      <button type="submit" className="plain" disabled={change.isPending}>
        change it
      </button>
      {change.isError && (
        <p role="alert" className="mb-0">
          <strong>{change.error.message}</strong>
        </p>
      )}
    </form>
  );
}
