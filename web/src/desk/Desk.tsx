import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { DeskPicture, Shapes, Slip } from "../api/client";
import { deskQuery, sessionQuery, type DeskLooked } from "../api/queries";
import { slipsQuery } from "../api/slips";
import { useKeys } from "../keys";
import { Key } from "../ui/Key";
import { SeverityStrokes, StateShape, type CellState } from "../ui/marks";
import { Notice } from "../ui/Notice";
import { Small } from "../ui/Small";
import { counted, span, until } from "../ui/words";
import { Charge } from "./Charge";
import { KeptViews } from "./KeptViews";
import { Looking } from "./Looking";
import { Since } from "./Since";
import { StartRun } from "./StartRun";
import { addressOf, lookedOf } from "./looked";

const stateWords: Record<string, string> = {
  done: "done: one attempt holds everywhere",
  "changed outside": "every region holds; what changed outside them does not yet",
  "to assemble": "every region holds, in different attempts",
  asked: "somebody is asked, nothing else is open",
  "sent back": "all ruled, some to be sent back",
  undecided: "",
  empty: "no attempt or no region yet",
};
const stateShapes: Record<string, CellState> = {
  done: "passes",
  "changed outside": "passes at size",
  "to assemble": "passes at size",
  "sent back": "rework",
  asked: "asked",
  undecided: "undecided",
  empty: "not needed",
};

/** Who holds a picture, and what came back of it. */
function slipWords(slips: Slip[]): string[] {
  const words: Record<string, (slip: Slip) => string> = {
    sent: (slip) => `slip ${slip.round} is with ${slip.worker.name}`,
    working: (slip) => `${slip.worker.name} is at slip ${slip.round}`,
    returned: (slip) => `slip ${slip.round} came back`,
    rechecked: (slip) =>
      `slip ${slip.round} came back: ${[...new Set(slip.regions.map((region) => region.outcome))].join(", ")}`,
    question: (slip) => `${slip.worker.name} asks about slip ${slip.round}`,
    declined: (slip) => `${slip.worker.name} declined slip ${slip.round}`,
    failed: (slip) => `slip ${slip.round} could not be worked`,
    written: (slip) => `slip ${slip.round} is not sent yet`,
  };
  const time = (slip: Slip) =>
    slip.late
      ? "; will hardly be back in time"
      : slip.usual && ["sent", "working"].includes(slip.state)
        ? `; usually ${span(slip.usual.seconds)}`
        : "";
  return slips.flatMap((slip) => {
    const said = words[slip.state]?.(slip);
    return said ? [said + time(slip)] : [];
  });
}

/** What the machine found in the attempts that rank best. What it has not looked at yet it says nothing of. */
export function foundWords(picture: DeskPicture): string {
  if (picture.worst) return `best attempt: ${picture.worst_kind}, ${picture.worst}`;
  if (picture.unexamined === picture.undecided) return "not checked yet";
  if (picture.unexamined > 0)
    return `nothing found so far; ${counted(picture.unexamined, "region")} not checked yet`;
  return "nothing found in the best attempt";
}

function Row({
  picture,
  slips,
  supervisors,
}: {
  picture: DeskPicture;
  slips: Slip[];
  /** Of all one's jobs: where there is one alone, nobody asks who is in charge. */
  supervisors: Shapes["Desk"]["supervisors"];
}) {
  const shared = supervisors.length > 1 && picture.role === "supervisor";
  return (
    <li className={`rule-top ${shared ? "grid grid-cols-[1fr_130px] items-center gap-4" : ""}`}>
      <Link
        to={`/pictures/${picture.id}`}
        className="grid grid-cols-[150px_1fr_270px_210px] items-center gap-4 py-2 text-inherit no-underline hover:bg-[var(--lift)]"
      >
        {picture.crop ? (
          <Small src={picture.crop} className="h-[92px] w-[150px]" />
        ) : (
          <span
            className="grid h-[92px] w-[150px] place-items-center border border-dashed text-center small"
            style={{ borderColor: "var(--line)" }}
          >
            not opened yet
          </span>
        )}
        <span>
          <span className="block text-lg">
            {String(picture.number).padStart(2, "0")} {picture.name}
          </span>
          <span className="block">
            {picture.job}, {until(picture.deadline)}
          </span>
        </span>
        <span className="flex items-center gap-2">
          <StateShape state={stateShapes[picture.state] ?? "not needed"} />
          {picture.signed && <strong>signed off;</strong>}
          {picture.state === "undecided" ? (
            <span>
              {picture.undecided} of {counted(picture.regions, "region")} undecided
              <span className="flex items-center gap-1">
                {foundWords(picture)} {picture.worst && <SeverityStrokes word={picture.worst} />}
              </span>
            </span>
          ) : (
            <span>{stateWords[picture.state] ?? picture.state}</span>
          )}
        </span>
        <span>
          {counted(picture.attempts, "attempt")}
          {picture.checking > 0 && (
            <span className="block">
              {counted(picture.checking, "check")} running
              <progress
                className="block h-2 w-full"
                max={1}
                value={picture.progress ?? 0}
                aria-label={`checks of ${picture.name}`}
                style={{ accentColor: "#000" }}
              />
            </span>
          )}
          {picture.asks_you > 0 && (
            <strong className="block">
              your second look is waited for at {counted(picture.asks_you, "region")}
            </strong>
          )}
          {slipWords(slips).map((said) => (
            <span key={said} className="block small">
              {said}
            </span>
          ))}
          {picture.failed > 0 && (
            <strong className="block">{counted(picture.failed, "check")} failed</strong>
          )}
        </span>
      </Link>
      {shared && <Charge picture={picture} supervisors={supervisors} />}
    </li>
  );
}

/** How much awaits a decision, and the ways through it. */
function Head({ desk, looked }: { desk: Shapes["Desk"]; looked: DeskLooked }) {
  const { pictures, undecided, awaiting, total } = desk;
  const rules = pictures.some((picture) => picture.role === "supervisor");
  return (
    <div className="mb-3 flex items-baseline justify-between gap-4">
      <h1 className="text-xl">Desk</h1>
      {pictures.length > 0 && (
        <Link to="/cold" className="plain text-inherit no-underline">
          look at results cold <Key action="cold" />
        </Link>
      )}
      {rules && undecided > 0 && <StartRun looked={looked} />}
      <p className="m-0" role="status">
        {total === 0
          ? ""
          : undecided === 0
            ? rules
              ? "Nothing awaits your decision."
              : "Every region is decided."
            : `${counted(undecided, "region")} in ${counted(awaiting, "picture")} ${rules ? "await your decision" : "are undecided"}.`}
      </p>
    </div>
  );
}

/** What needs my decision now? */
export function Desk() {
  const [start, setStart] = useState(0);
  const [address, setAddress] = useSearchParams();
  const looked = lookedOf(address);
  // While words are typed, what was found before stays.
  const desk = useQuery({ ...deskQuery(start, looked), placeholderData: keepPreviousData });
  const look = (now: DeskLooked) => {
    setStart(0);
    setAddress(addressOf(now), { replace: true });
  };
  const slips = useQuery(slipsQuery);
  const session = useQuery(sessionQuery).data;
  const navigate = useNavigate();
  useKeys({ cold: () => void navigate("/cold") });
  const list = useRef<HTMLUListElement>(null);
  const loaded = desk.data !== undefined;
  useEffect(() => {
    const walk = (event: KeyboardEvent) => {
      if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
      const links = [...(list.current?.querySelectorAll<HTMLElement>("a") ?? [])];
      const at = links.indexOf(document.activeElement as HTMLElement);
      const to =
        links[
          at === -1
            ? 0
            : Math.min(links.length - 1, Math.max(0, at + (event.key === "ArrowDown" ? 1 : -1)))
        ];
      if (to) {
        event.preventDefault();
        to.focus();
      }
    };
    window.addEventListener("keydown", walk);
    return () => window.removeEventListener("keydown", walk);
  }, [loaded]);
  if (desk.isPending) return <Notice title="Looking what awaits you …" busy />;
  if (desk.isError && !desk.data)
    return (
      <Notice title="The desk cannot be shown" alert>
        {desk.error.message}
        <p>
          <button type="button" className="plain" onClick={() => void desk.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  const pictures = desk.data?.pictures ?? [];
  const { total = 0, more = null } = desk.data ?? {};
  return (
    <main className="mx-auto max-w-[1180px] px-6 py-4">
      {desk.data && <Head desk={desk.data} looked={looked} />}
      {desk.data && desk.data.total > 0 && (
        <>
          <Looking desk={desk.data} looked={looked} onLook={look} />
          <KeptViews looked={looked} onLook={look} />
          <Since />
        </>
      )}
      {pictures.length === 0 && desk.data && desk.data.total > 0 ? (
        <Notice inside title="No such pictures">
          Nothing matches what is looked for; “show all” takes it away.
        </Notice>
      ) : pictures.length === 0 ? (
        <Notice inside title="No pictures yet">
          {session?.makes_jobs ? (
            <>
              <Link to="/jobs">Make a job</Link>, or open one, and bring its pictures in: they
              appear here once an original has a result.
            </>
          ) : (
            "Pictures appear here once a job you take part in has an original and a result."
          )}
        </Notice>
      ) : (
        <ul ref={list} className="m-0 list-none p-0">
          {pictures.map((picture) => (
            <Row
              key={picture.id}
              picture={picture}
              supervisors={desk.data?.supervisors ?? []}
              slips={(slips.data ?? []).filter((slip) => slip.picture === picture.id)}
            />
          ))}
        </ul>
      )}
      {(start > 0 || more !== null) && (
        <nav aria-label="pages" className="rule-top flex items-center gap-3 py-3">
          <button
            type="button"
            className="plain"
            disabled={start === 0}
            onClick={() => setStart(Math.max(0, start - 100))}
          >
            earlier deadlines
          </button>
          <span>
            {start + 1} to {start + pictures.length} of {total}
          </span>
          <button
            type="button"
            className="plain"
            disabled={more === null}
            onClick={() => setStart(more ?? start)}
          >
            later deadlines
          </button>
        </nav>
      )}
    </main>
  );
}
