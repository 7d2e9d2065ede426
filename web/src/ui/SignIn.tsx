import { useState } from "react";
import { useSignIn } from "../api/queries";

/** The sign-in form, on its own page and over a page whose sign-in has expired. */
export function SignInForm({ onDone, username = "" }: { onDone?: () => void; username?: string }) {
  const signIn = useSignIn();
  const [name, setName] = useState(username);
  const [password, setPassword] = useState("");
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (!signIn.isPending)
          signIn.mutate({ username: name, password }, { onSuccess: () => onDone?.() });
      }}
    >
      <label className="flex flex-col gap-1">
        name
        <input
          className="field"
          autoComplete="username"
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="flex flex-col gap-1">
        password
        <input
          className="field"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      </label>
      {signIn.isError && (
        <p role="alert" className="m-0 font-semibold">
          {signIn.error.message}
        </p>
      )}
      <button type="submit" className="plain self-start px-4 py-1" aria-disabled={signIn.isPending}>
        {signIn.isPending ? "signing in …" : "sign in"}
      </button>
    </form>
  );
}

export function SignInPage() {
  return (
    <main className="flex h-full items-center justify-center">
      <div className="w-[340px]">
        <h1 className="mb-1 text-2xl">Zweiblick</h1>
        <p className="mt-0 mb-5">Two looks at every picture from which something was removed.</p>
        <SignInForm />
      </div>
    </main>
  );
}
