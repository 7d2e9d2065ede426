import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { invitedQuery, useJoin } from "../api/crew";
import type { Session } from "../api/client";
import { Notice } from "../ui/Notice";
import { moment } from "../ui/words";

/** Joining a job by the link one was given: with one's account, or with a new one. */
export function JoinPage({ session }: { session: Session }) {
  const { token = "" } = useParams();
  const navigate = useNavigate();
  const invited = useQuery(invitedQuery(token));
  const join = useJoin(token);
  const [username, setUsername] = useState("");
  const [name, setName] = useState<string | null>(null);
  const [password, setPassword] = useState("");
  if (invited.isPending) return <Notice title="Looking what you are invited to …" busy />;
  if (!invited.data)
    return (
      <Notice title="This link opens nothing" alert>
        {invited.error?.message}
      </Notice>
    );
  const { data } = invited;
  const called = name ?? data.name;
  const done = { onSuccess: () => void navigate("/") };
  return (
    <main className="flex h-full items-center justify-center">
      <div className="w-[380px]">
        <h1 className="mb-1 text-2xl">{data.job}</h1>
        <p className="mt-0 mb-4">
          {data.by} invites you as {data.role}. The link works once, until {moment(data.expires_at)}
          .
        </p>
        {session.signed_in ? (
          <button
            type="button"
            className="plain"
            disabled={join.isPending}
            onClick={() => join.mutate({ username: "", name: "", password: "" }, done)}
          >
            join as {session.name}
          </button>
        ) : (
          <form
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (!join.isPending) join.mutate({ username, name: called, password }, done);
            }}
          >
            <label className="flex flex-col gap-1">
              what you are called
              <input
                className="field"
                autoComplete="name"
                maxLength={120}
                required
                value={called}
                onChange={(event) => setName(event.target.value)}
              />
            </label>
            <label className="flex flex-col gap-1">
              name to sign in with
              <input
                className="field"
                autoComplete="username"
                maxLength={150}
                required
                value={username}
                onChange={(event) => setUsername(event.target.value)}
              />
            </label>
            <label className="flex flex-col gap-1">
              password
              <input
                className="field"
                type="password"
                autoComplete="new-password"
                required
                value={password}
                onChange={(event) => setPassword(event.target.value)}
              />
            </label>
            <button
              type="submit"
              className="plain self-start px-4 py-1"
              aria-disabled={join.isPending}
            >
              join
            </button>
            <p className="m-0 small">
              You have an account? Sign in first, then open the link again.
            </p>
          </form>
        )}
        {join.isError && (
          <p role="alert">
            <strong>{join.error.message}</strong>
          </p>
        )}
      </div>
    </main>
  );
}
