import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { tokensQuery, useTokens } from "../api/tokens";
import { Trouble } from "./Trouble";
import { moment } from "./words";

/** What one's own programs bring files in with. */
export function Tokens() {
  const tokens = useQuery(tokensQuery);
  const { make, revoke } = useTokens();
  const [name, setName] = useState("");
  return (
    <section className="rule-top mt-3 pt-2" aria-label="Tokens">
      <h3 className="text-[1rem]">Tokens</h3>
      <p className="m-0 small">
        A program of yours brings files in with one, for instance{" "}
        <em>zweiblick bring FOLDER --job NAME --watch</em>; it can do nothing else.
      </p>
      <ul className="m-0 list-none p-0">
        {tokens.data?.tokens.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 py-0.5">
            <span className="flex-1">
              {one.name}{" "}
              <span className="small">
                {one.used_at ? `used ${moment(one.used_at)}` : "never used"}
              </span>
            </span>
            <button
              type="button"
              className="quiet"
              aria-label={`revoke ${one.name}`}
              onClick={() => revoke.mutate(one.id)}
            >
              revoke
            </button>
          </li>
        ))}
      </ul>
      {make.data?.secret && (
        <p className="border p-2" style={{ borderColor: "var(--ink)" }} role="status">
          Shown once, kept nowhere: <code className="break-all">{make.data.secret}</code>
        </p>
      )}
      <form
        className="mt-1 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() && !make.isPending) make.mutate(name, { onSuccess: () => setName("") });
        }}
      >
        <label className="flex flex-1 flex-col">
          for what
          <input
            className="field"
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <button type="submit" className="plain" aria-disabled={!name.trim() || make.isPending}>
          make a token
        </button>
      </form>
      <Trouble error={make.error ?? revoke.error} />
    </section>
  );
}
