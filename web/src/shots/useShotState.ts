import { useState } from "react";
import type { Shot } from "../api/shots";
import type { Mode } from "./paint";
import type { Drawing } from "./ShotStage";
import type { Zoom } from "./view";

/** What of a shot is looked at, and how. */
export function useShotState(shot: Shot) {
  const { width, height } = shot.original;
  const [given, setAttempt] = useState<number | null>(null);
  const attempt = shot.attempts.find((one) => one.id === given) ?? shot.attempts[0] ?? null;
  const [other, setOther] = useState<number | null>(null);
  const [named, setRegion] = useState<number | null>(null);
  const region = shot.regions.find((one) => one.id === named) ?? shot.regions[0] ?? null;
  const [turned, setTurned] = useState(false);
  const [mode, setMode] = useState<Mode>("one");
  const [holding, setHolding] = useState(false);
  const [bare, setBare] = useState(false);
  const [line, setLine] = useState(0.5);
  const [row, setRow] = useState<number | null>(null);
  const [doubled, setDoubled] = useState(3);
  const [zoom, setZoom] = useState<Zoom>("whole");
  const [grounded, setGrounded] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const [words, setWords] = useState("");
  const [drawing, setDrawing] = useState<(Drawing & { region: number | null }) | null>(null);
  const judged = attempt?.id ?? null;
  const compared = other === judged ? null : other;
  return {
    size: { width, height },
    attempt,
    setAttempt,
    region,
    setRegion,
    judged,
    compared,
    setOther,
    sides: turned ? { a: judged, b: compared } : { a: compared, b: judged },
    turn: () => setTurned((now) => !now),
    mode,
    setMode,
    toggle: (to: Mode) => setMode((now) => (now === to ? "one" : to)),
    holding,
    setHolding,
    bare,
    setBare,
    line,
    setLine,
    row,
    setRow,
    doubled,
    setDoubled,
    zoom,
    setZoom,
    grounded,
    setGrounded,
    chosen,
    setChosen,
    words,
    setWords,
    drawing,
    setDrawing,
    startDrawing: (at: number | null) =>
      setDrawing({ region: at, points: [], cross: [width / 2, height / 2] }),
  };
}
export type ShotState = ReturnType<typeof useShotState>;
