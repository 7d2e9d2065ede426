import { useEffect, useState } from "react";
import type { Attempt, Bench, ImageOf } from "../api/client";
import type { Handlers } from "../keys";
import { AMPLIFIED, BEAT_MS, MEASURES, type Measure, type Mode, type Wipe } from "../stage/compare";

export type Side = { image: ImageOf; name: string; attempt: number | null };

export type Compare = {
  mode: Mode;
  /** The two sides. One is the attempt that is judged: B, or A once they are turned round. */
  a: Side;
  b: Side;
  /** The side that the judged attempt is compared with. */
  other: Side;
  turned: boolean;
  /** Whether the judged attempt is on the stage just now, alone or with the other. */
  judgedSeen: boolean;
  /** Whether A is seen alone just now: its key is held, or it is its turn. */
  alone: boolean;
  beating: boolean;
  wipe: Wipe;
  measure: Measure;
  amplified: number;
  hold: (down: boolean) => void;
  setMode: (mode: Mode) => void;
  setBeating: (on: boolean) => void;
  setWipe: (wipe: Wipe) => void;
  chooseOther: (attempt: number | null) => void;
  turnRound: () => void;
  keys: Handlers;
};

/** How A and B are compared. It stays as it is when the cell changes. */
export function useCompare(bench: Bench, attempt: Attempt): Compare {
  const [mode, setModeOnly] = useState<Mode>("one");
  const [held, hold] = useState(false);
  const [beating, setBeatingOnly] = useState(false);
  const [turn, setTurn] = useState(false);
  const [side, chooseOther] = useState<number | null>(null);
  const [turned, setTurned] = useState(false);
  const [wipe, setWipe] = useState<Wipe>({ position: 0.5, angle: 0 });
  const [measure, setMeasure] = useState<Measure>("absolute");
  const [step, setStep] = useState(2);

  useEffect(() => {
    if (!beating) return undefined;
    const ticking = setInterval(() => setTurn((now) => !now), BEAT_MS);
    return () => clearInterval(ticking);
  }, [beating]);

  const setBeating = (on: boolean) => {
    setBeatingOnly(on);
    setTurn(on);
    if (on) setModeOnly("one");
  };
  const setMode = (next: Mode) => {
    setBeatingOnly(false);
    setModeOnly(next);
  };
  // An attempt compared with itself says nothing: then it is the original again.
  const others = bench.attempts.filter((one) => one.id !== attempt.id);
  const chosen = others.find((one) => one.id === side) ?? null;
  const other = chosen
    ? { image: chosen.image, name: `attempt ${chosen.number}`, attempt: chosen.id }
    : { image: bench.original, name: "original", attempt: null };
  const judged = { image: attempt.image, name: `attempt ${attempt.number}`, attempt: attempt.id };
  const alone = mode === "one" && (held || (beating && turn));
  const turnRound = () => setTurned(!turned);
  const toggled = (one: Mode) => () => setMode(mode === one ? "one" : one);
  const moved = (by: number) => () => {
    if (mode === "wipe")
      setWipe((old) => ({
        ...old,
        position: Math.max(0, Math.min(1, Math.round((old.position + by * 0.05) * 100) / 100)),
      }));
    if (mode === "difference")
      setStep((old) => Math.max(0, Math.min(AMPLIFIED.length - 1, old + by)));
  };
  const ways: (number | null)[] = [null, ...others.map((one) => one.id)];
  return {
    mode,
    a: turned ? judged : other,
    b: turned ? other : judged,
    other,
    turned,
    judgedSeen: mode !== "one" || alone === turned,
    alone,
    beating,
    wipe,
    measure,
    amplified: AMPLIFIED[step] ?? 1,
    hold,
    setMode,
    setBeating,
    setWipe,
    chooseOther,
    turnRound,
    keys: {
      swap: hold,
      beat: () => setBeating(!beating),
      wipe: toggled("wipe"),
      beside: toggled("beside"),
      difference: toggled("difference"),
      less: moved(-1),
      more: moved(1),
      turn: () => {
        if (mode === "wipe") setWipe((old) => ({ ...old, angle: (old.angle + 15) % 360 }));
        if (mode === "difference")
          setMeasure(
            (old) => MEASURES[(MEASURES.indexOf(old) + 1) % MEASURES.length] ?? "absolute",
          );
      },
      nextA: () => chooseOther(ways[(ways.indexOf(other.attempt) + 1) % ways.length] ?? null),
      turnRound,
    },
  };
}
