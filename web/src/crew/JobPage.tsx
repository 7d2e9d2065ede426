import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { sessionQuery } from "../api/queries";
import { sheetQuery, useSheet, type JobSheet, type Role } from "../api/crew";
import { ClientBarDialog, barWords } from "../ui/ClientBar";
import { Notice } from "../ui/Notice";
import { counted, until } from "../ui/words";
import { Invitations } from "./Invitations";
import { Pictures } from "./Pictures";
import { Terms } from "./Terms";
import { Trouble } from "../ui/Trouble";

const ROLES: Role[] = ["supervisor", "retoucher", "guest"];

/** A job's page: what was entered of it, who takes part, how far its pictures are. */
export function JobPage() {
  const job = Number(useParams().id);
  const sheet = useQuery(sheetQuery(job));
  if (sheet.isPending) return <Notice title="Looking at the job …" busy />;
  if (!sheet.data)
    return (
      <Notice title="The job cannot be shown" alert>
        {sheet.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void sheet.refetch()}>
            try again
          </button>{" "}
          <Link to="/jobs">to the jobs</Link>
        </p>
      </Notice>
    );
  return <Sheet key={sheet.data.job.id} sheet={sheet.data} />;
}

function Sheet({ sheet }: { sheet: JobSheet }) {
  const { job, standing } = sheet;
  const states = Object.entries(standing).map(([state, count]) => `${count} ${state}`);
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-1 flex items-baseline gap-4">
        <h1 className="text-xl">{job.name}</h1>
        <span>
          {job.client}
          {job.client ? ", " : ""}
          {until(job.deadline)}
        </span>
        <span className="ml-auto flex gap-4">
          <Link to={`/jobs/${job.id}`}>bring pictures in</Link>
          <Link to={`/jobs/${job.id}/shots`}>shots</Link>
          <Link to={`/jobs/${job.id}/deliveries`}>signed off and delivered</Link>
        </span>
      </div>
      <p className="mt-0" role="status">
        {counted(job.pictures.length, "picture")}
        {states.length > 0 ? `: ${states.join(", ")}` : ""}; {sheet.signed} signed off.
      </p>
      <Terms sheet={sheet} />
      <LetPass sheet={sheet} />
      <Pictures sheet={sheet} />
      <People sheet={sheet} />
      <Invitations sheet={sheet} />
    </main>
  );
}

/** What the client lets pass, and changing it. */
function LetPass({ sheet }: { sheet: JobSheet }) {
  const [open, setOpen] = useState(false);
  const { id, name } = sheet.job;
  return (
    <section className="rule-top py-2" aria-label="The client's bar">
      <h2 className="text-[1rem]">What the client lets pass</h2>
      <p className="m-0 flex items-center gap-3">
        {barWords(sheet.bar)}
        <button type="button" className="quiet" onClick={() => setOpen(true)}>
          by kind of flaw
        </button>
      </p>
      <ClientBarDialog
        job={{ id, name, bar: sheet.bar }}
        mayRule
        open={open}
        onClose={() => setOpen(false)}
      />
    </section>
  );
}

function People({ sheet }: { sheet: JobSheet }) {
  const session = useQuery(sessionQuery);
  const navigate = useNavigate();
  const { role, remove } = useSheet(sheet.job.id);
  const [asked, setAsked] = useState<number | null>(null);
  const trouble = role.error ?? remove.error;
  const busy = role.isPending || remove.isPending;
  return (
    <section className="rule-top py-2" aria-label="People">
      <h2 className="text-[1rem]">People</h2>
      <table className="border-collapse text-left">
        <tbody>
          {sheet.job.people.map((one) => (
            <tr key={one.id} className="align-baseline">
              <th scope="row" className="py-1 pr-6 font-normal">
                {one.name}
              </th>
              <td className="pr-6">
                <select
                  className="field"
                  aria-label={`role of ${one.name}`}
                  value={one.role}
                  disabled={busy}
                  onChange={(event) =>
                    role.mutate({ person: one.id, role: event.target.value as Role })
                  }
                >
                  {ROLES.map((name) => (
                    <option key={name}>{name}</option>
                  ))}
                </select>
              </td>
              <td>
                {asked === one.id ? (
                  <>
                    <button
                      type="button"
                      className="plain"
                      disabled={busy}
                      onClick={() =>
                        remove.mutate(one.id, {
                          onSuccess: (now) => {
                            setAsked(null);
                            if (!now) void navigate("/jobs");
                          },
                        })
                      }
                    >
                      yes, take {one.name} out
                    </button>{" "}
                    <button type="button" className="quiet" onClick={() => setAsked(null)}>
                      no
                    </button>
                  </>
                ) : (
                  <button type="button" className="quiet" onClick={() => setAsked(one.id)}>
                    take out{one.name === session.data?.name ? " (that is you)" : ""}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Trouble error={trouble} />
    </section>
  );
}
