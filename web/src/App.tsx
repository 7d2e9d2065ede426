import { useQuery } from "@tanstack/react-query";
import { Component, lazy, Suspense, useEffect, useState, type ReactNode } from "react";
import { Navigate, NavLink, Route, Routes, useLocation } from "react-router";
import { onExpired } from "./api/client";
import { sessionQuery, useSignOut } from "./api/queries";
import { Desk } from "./desk/Desk";
import { useKeys } from "./keys";
import { Dialog } from "./ui/Dialog";
import { Key } from "./ui/Key";
import { DESK, SLIPS } from "./ui/places";
import { KeysDialog } from "./ui/KeysDialog";
import { Notice } from "./ui/Notice";
import { PasswordDialog } from "./ui/PasswordDialog";
import { SignInForm, SignInPage } from "./ui/SignIn";

const BenchPage = lazy(() =>
  import("./bench/BenchPage").then((module) => ({ default: module.BenchPage })),
);
const SiblingsPage = lazy(() =>
  import("./spread/SiblingsPage").then((screen) => ({ default: screen.SiblingsPage })),
);
const RunPage = lazy(() =>
  import("./runs/RunPage").then((screen) => ({ default: screen.RunPage })),
);
const JobPage = lazy(() =>
  import("./crew/JobPage").then((module) => ({ default: module.JobPage })),
);
const ShotPage = lazy(() =>
  import("./shots/ShotPage").then((module) => ({ default: module.ShotPage })),
);
const ShotsPage = lazy(() =>
  import("./shots/ShotsPage").then((module) => ({ default: module.ShotsPage })),
);
const JoinPage = lazy(() =>
  import("./crew/JoinPage").then((module) => ({ default: module.JoinPage })),
);
const SignOffPage = lazy(() =>
  import("./signing/SignOffPage").then((module) => ({ default: module.SignOffPage })),
);
const DeliveriesPage = lazy(() =>
  import("./signing/DeliveriesPage").then((module) => ({ default: module.DeliveriesPage })),
);
const OutlinesPage = lazy(() =>
  import("./outlines/OutlinesPage").then((module) => ({ default: module.OutlinesPage })),
);
const SpreadPage = lazy(() =>
  import("./spread/SpreadPage").then((module) => ({ default: module.SpreadPage })),
);
const ColdPage = lazy(() =>
  import("./cold/ColdPage").then((module) => ({ default: module.ColdPage })),
);
const SlipsPage = lazy(() =>
  import("./slips/SlipsPage").then((module) => ({ default: module.SlipsPage })),
);
const SlipPage = lazy(() =>
  import("./slips/SlipPage").then((module) => ({ default: module.SlipPage })),
);
const JobsPage = lazy(() =>
  import("./intake/JobsPage").then((module) => ({ default: module.JobsPage })),
);
const IntakePage = lazy(() =>
  import("./intake/IntakePage").then((module) => ({ default: module.IntakePage })),
);
const TallyPage = lazy(() =>
  import("./tally/TallyPage").then((module) => ({ default: module.TallyPage })),
);
const Released = lazy(() =>
  import("./released/Released").then((module) => ({ default: module.Released })),
);

/** Where one begins and what else there is. A retoucher's day begins with their slips. */
const PLACES = {
  supervisor: [
    { to: DESK, words: "Desk" },
    { to: SLIPS, words: "Slips" },
    { to: "/jobs", words: "Jobs" },
    { to: "/tally", words: "Tally" },
  ],
  retoucher: [
    { to: SLIPS, words: "Slips" },
    { to: DESK, words: "Desk" },
    { to: "/jobs", words: "Jobs" },
  ],
};

/** An error in the program leaves a way on, and says so. */
class Caught extends Component<{ children: ReactNode }, { error: Error | null }> {
  override state = { error: null as Error | null };
  static getDerivedStateFromError(error: Error) {
    return { error };
  }
  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <Notice title="This screen met an error in the program" alert>
        What was stored is safe.{" "}
        <p>
          <a href={DESK}>to the desk</a>
        </p>
      </Notice>
    );
  }
}

export function App() {
  const session = useQuery(sessionQuery);
  const [expired, setExpired] = useState(false);
  const [help, setHelp] = useState(false);
  const [password, setPassword] = useState(false);
  const signOut = useSignOut();
  const { pathname } = useLocation();
  const onBench =
    (pathname.startsWith("/pictures/") && !pathname.endsWith("/sign-off")) ||
    pathname.startsWith("/shots/");
  useEffect(() => onExpired(() => setExpired(true)), []);
  useKeys({ help: () => setHelp(true) });
  if (session.isPending) return <Notice title="Zweiblick" busy />;
  if (session.isError)
    return (
      <Notice title="The server cannot be reached" alert>
        {session.error.message}
        <p>
          <button type="button" className="plain" onClick={() => void session.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  if (pathname.startsWith("/join/"))
    return (
      <Suspense fallback={<Notice title="One moment …" busy />}>
        <Routes>
          <Route path="/join/:token" element={<JoinPage session={session.data} />} />
        </Routes>
      </Suspense>
    );
  if (!session.data.signed_in) return <SignInPage />;
  const guest = session.data.role === "guest";
  const retoucher = session.data.role === "retoucher";
  const places = retoucher ? PLACES.retoucher : PLACES.supervisor;
  return (
    <div className="grid h-full grid-rows-[auto_1fr]">
      {onBench && !guest ? (
        <span />
      ) : (
        <nav
          className="flex h-[40px] items-center gap-4 border-b px-6"
          style={{ borderColor: "var(--line)" }}
          aria-label="Zweiblick"
        >
          <strong>Zweiblick</strong>
          {!guest &&
            places.map(({ to, words }) => (
              <NavLink
                key={to}
                to={to}
                className={({ isActive }) =>
                  `px-1 text-inherit ${isActive ? "font-semibold no-underline" : ""}`
                }
              >
                {words}
              </NavLink>
            ))}
          <button
            type="button"
            className="quiet ml-auto"
            title="your password and tokens"
            onClick={() => setPassword(true)}
          >
            {session.data.name}, {session.data.role ?? "in no job yet"}
          </button>
          <button type="button" className="quiet" onClick={() => setHelp(true)}>
            keys <Key action="help" />
          </button>
          <button type="button" className="quiet" onClick={() => signOut.mutate()}>
            sign out
          </button>
        </nav>
      )}
      <div className={onBench && !guest ? "min-h-0 overflow-hidden" : "scrolls relative min-h-0"}>
        <Caught>
          <Suspense fallback={<Notice title="One moment …" busy />}>
            {guest ? (
              <Released />
            ) : (
              <Routes>
                <Route path="/" element={<Navigate to={retoucher ? SLIPS : DESK} replace />} />
                <Route path={DESK} element={<Desk />} />
                <Route path="/pictures/:id" element={<BenchPage />} />
                <Route path="/pictures/:id/regions/:region/spread" element={<SpreadPage />} />
                <Route path="/pictures/:id/regions/:region/siblings" element={<SiblingsPage />} />
                <Route path="/pictures/:id/sign-off" element={<SignOffPage />} />
                <Route path="/jobs/:id/sheet" element={<JobPage />} />
                <Route path="/jobs/:id/shots" element={<ShotsPage />} />
                <Route path="/shots/:id" element={<ShotPage />} />
                <Route path="/jobs/:id/deliveries" element={<DeliveriesPage />} />
                <Route path="/pictures/:id/outlines" element={<OutlinesPage />} />
                <Route path="/cold" element={<ColdPage />} />
                <Route path={SLIPS} element={<SlipsPage />} />
                <Route path="/slips/:id" element={<SlipPage />} />
                <Route path="/runs/:id" element={<RunPage />} />
                <Route path="/tally" element={<TallyPage />} />
                <Route path="/jobs" element={<JobsPage />} />
                <Route path="/jobs/:id" element={<IntakePage />} />
                <Route
                  path="*"
                  element={
                    <Notice title="There is nothing at this address">
                      <a href={DESK}>to the desk</a>
                    </Notice>
                  }
                />
              </Routes>
            )}
          </Suspense>
        </Caught>
      </div>
      <PasswordDialog open={password} onClose={() => setPassword(false)} />
      <KeysDialog open={help} onClose={() => setHelp(false)} />
      <Dialog open={expired} onClose={() => setExpired(false)} title="Your sign-in has expired">
        <p className="mt-0">Sign in again; the page stays as it is.</p>
        <SignInForm username={session.data.username ?? ""} onDone={() => setExpired(false)} />
      </Dialog>
    </div>
  );
}
