import { useState } from "react";
import { useChangePassword } from "../api/queries";
import { Dialog } from "./Dialog";
import { Tokens } from "./Tokens";

/** One's own password, with which other sessions of the same person end, and one's tokens. */
export function PasswordDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Your sign-in">
      {open && (
        <>
          <Form onClose={onClose} />
          <Tokens />
        </>
      )}
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
      <h3 className="text-[1rem]">Change your password</h3>
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
