import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import { keepMeasured, useScreen } from "./screen";

/** What is held to the screen: a bank or identity card is as wide everywhere (ISO/IEC 7810, ID-1). */
const THINGS = [
  { words: "a card, 85.6 mm wide", mm: 85.6 },
  { words: "100 mm of a ruler", mm: 100 },
];

/** Print sizes are shown as large as on paper; for that the screen is measured once. */
export function ScreenDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Measure this screen" wide>
      {open && <Measure onClose={onClose} />}
    </Dialog>
  );
}

function Measure({ onClose }: { onClose: () => void }) {
  const screen = useScreen();
  const [thing, setThing] = useState(0);
  const [per, setPer] = useState(screen.perMillimetre);
  const mm = THINGS[thing]?.mm ?? 100;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        keepMeasured(per);
        onClose();
      }}
    >
      <p className="mt-0">
        Lay it on the screen and move the slider (arrow keys are finer) until the bar is just as
        wide. It is kept for this screen.
      </p>
      <label className="flex items-center gap-2">
        I have{" "}
        <select
          className="field"
          value={thing}
          onChange={(event) => setThing(Number(event.target.value))}
        >
          {THINGS.map((one, i) => (
            <option key={one.mm} value={i}>
              {one.words}
            </option>
          ))}
        </select>
      </label>
      <div
        className="my-3 h-[54px]"
        style={{ width: mm * per, maxWidth: "100%", background: "#000" }}
        data-width={(mm * per).toFixed(1)}
        role="img"
        aria-label={`a bar that should be ${mm} mm wide`}
      />
      <label className="flex items-center gap-3">
        width{" "}
        <input
          type="range"
          className="flex-1"
          min={2}
          max={8}
          step={0.01}
          value={per}
          onChange={(event) => setPer(Number(event.target.value))}
        />{" "}
        <output className="tabular-nums">{per.toFixed(2)} px / mm</output>
      </label>
      <p className="mb-0 flex gap-2">
        <button type="submit" className="plain">
          that is its width
        </button>
        <button type="button" className="plain" onClick={onClose}>
          leave it
        </button>
      </p>
    </form>
  );
}
