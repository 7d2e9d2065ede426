import { useRef, useState } from "react";
import { useSheet, type JobSheet, type Role } from "../api/crew";
import { moment } from "../ui/words";
import { Trouble } from "../ui/Trouble";

/** Inviting by a link that is copied; those that can still be used. */
export function Invitations({ sheet }: { sheet: JobSheet }) {
  const { invite, withdraw } = useSheet(sheet.job.id);
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("retoucher");
  const trouble = invite.error ?? withdraw.error;
  return (
    <section className="rule-top py-2" aria-label="Invitations">
      <h2 className="text-[1rem]">Invitations</h2>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!invite.isPending) invite.mutate({ name, role }, { onSuccess: () => setName("") });
        }}
      >
        <label className="flex flex-col">
          what they are called
          <input
            className="field w-[240px]"
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="flex flex-col">
          as
          <select
            className="field"
            value={role}
            onChange={(event) => setRole(event.target.value as Role)}
          >
            <option>supervisor</option>
            <option>retoucher</option>
            <option>guest</option>
          </select>
        </label>
        <button type="submit" className="plain" aria-disabled={invite.isPending}>
          make a link
        </button>
      </form>
      {sheet.link && <CopyLink link={sheet.link} />}
      {sheet.invitations.length > 0 && (
        <ul className="m-0 mt-2 list-none p-0">
          {sheet.invitations.map((one) => (
            <li key={one.id} className="flex items-center gap-3 py-0.5">
              <span>
                {one.name || "somebody"} as {one.role}, until {moment(one.expires_at)}; invited by{" "}
                {one.made_by}
              </span>
              <button
                type="button"
                className="quiet"
                disabled={withdraw.isPending}
                onClick={() => withdraw.mutate(one.id)}
              >
                take it back
              </button>
            </li>
          ))}
        </ul>
      )}
      <Trouble error={trouble} />
    </section>
  );
}

/** The link, to be copied and sent by whatever one writes with. */
function CopyLink({ link }: { link: string }) {
  const field = useRef<HTMLInputElement>(null);
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    field.current?.select();
    // Without a secure origin a browser keeps its clipboard to itself; then the selection helps.
    try {
      await navigator.clipboard.writeText(link);
      setCopied(true);
    } catch {
      setCopied(false);
    }
  };
  return (
    <p className="m-0 mt-2 flex items-center gap-3 border p-2">
      <label className="flex flex-1 items-center gap-2">
        the link
        <input
          ref={field}
          className="field flex-1"
          readOnly
          value={link}
          onFocus={(event) => event.target.select()}
        />
      </label>
      <button type="button" className="plain" onClick={() => void copy()}>
        copy it
      </button>
      <span role="status" className="small">
        {copied ? "copied" : "shown once: send it to them"}
      </span>
    </p>
  );
}
