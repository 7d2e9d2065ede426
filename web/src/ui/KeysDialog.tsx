import { useState } from "react";
import {
  ACTIONS,
  FIXED_KEYS,
  changeKey,
  keyOf,
  resetKeys,
  switchKeys,
  useKeySettings,
  type Action,
} from "../keys";
import { Dialog } from "./Dialog";
import { setSurround, useSurround, type Surround } from "./surround";

function ChangeKey({ action }: { action: Action }) {
  const [trouble, setTrouble] = useState<string | null>(null);
  return (
    <li className="flex items-baseline gap-2 py-0.5">
      <input
        className="field w-10 text-center"
        aria-label={`key for: ${ACTIONS[action].words}`}
        value={keyOf(action)}
        maxLength={2}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTrouble(changeKey(action, event.target.value.slice(-1)))}
      />
      <span>
        {ACTIONS[action].words}
        {trouble && (
          <strong role="alert" className="block">
            {trouble}
          </strong>
        )}
      </span>
    </li>
  );
}

/** Every key, changeable; single keys can be switched off. */
export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { on } = useKeySettings();
  const surround = useSurround();
  const places = [...new Set(Object.values(ACTIONS).map((action) => action.where))];
  return (
    <Dialog open={open} onClose={onClose} title="All keys" wide>
      <label className="mb-3 flex items-center gap-2">
        <input
          type="checkbox"
          checked={on}
          onChange={(event) => switchKeys(event.target.checked)}
        />{" "}
        single keys act (everything stays reachable with Tab when they do not)
      </label>
      <div className="grid grid-cols-2 gap-x-8 gap-y-3">
        {places.map((place) => (
          <section key={place} aria-label={place}>
            <h3>{place}</h3>
            <ul className="m-0 list-none p-0">
              {(Object.keys(ACTIONS) as Action[])
                .filter((action) => ACTIONS[action].where === place)
                .map((action) => (
                  <ChangeKey key={action} action={action} />
                ))}
            </ul>
          </section>
        ))}
        <section aria-label="Always">
          <h3>Always</h3>
          <ul className="m-0 list-none p-0">
            {FIXED_KEYS.map(([key, words]) => (
              <li key={key}>
                <kbd className="key">{key}</kbd> {words}
              </li>
            ))}
          </ul>
        </section>
      </div>
      <div className="mt-4 flex items-center gap-4">
        <button type="button" className="plain" onClick={resetKeys}>
          keys as they came
        </button>
        <fieldset className="flex items-center gap-3 border-0 p-0">
          <legend className="float-left mr-3">grey around the picture</legend>
          {(["dark", "mid", "light"] as Surround[]).map((step) => (
            <label key={step} className="flex items-center gap-1">
              <input
                type="radio"
                name="surround"
                checked={surround === step}
                onChange={() => setSurround(step)}
              />{" "}
              {step}
            </label>
          ))}
        </fieldset>
      </div>
    </Dialog>
  );
}
