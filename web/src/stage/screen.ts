import { useSyncExternalStore } from "react";
import { SUPPOSED } from "./view";

/** How many CSS pixels this screen has for a millimetre, measured by a person with a ruler or a card and kept for this screen. */
const listeners = new Set<() => void>();
const name = () =>
  `zweiblick.screen.${window.screen.width}x${window.screen.height}@${window.devicePixelRatio}`;

function kept(): number {
  const found = Number(localStorage.getItem(name()));
  return found > 1 && found < 60 ? found : 0;
}

export function keepMeasured(perMillimetre: number): void {
  localStorage.setItem(name(), String(perMillimetre));
  listeners.forEach((call) => call());
}

/** `measured` is false while what CSS supposes is taken. */
export function useScreen(): { perMillimetre: number; measured: boolean } {
  const found = useSyncExternalStore((call) => {
    listeners.add(call);
    return () => listeners.delete(call);
  }, kept);
  return { perMillimetre: found || SUPPOSED, measured: found > 0 };
}
