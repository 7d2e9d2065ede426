import { useSyncExternalStore } from "react";

export type Surround = "dark" | "mid" | "light";
const STORE = "zweiblick.surround";
const listeners = new Set<() => void>();

function kept(): Surround {
  const found = localStorage.getItem(STORE);
  return found === "dark" || found === "light" ? found : "mid";
}

export function applySurround(): void {
  document.documentElement.dataset.surround = kept();
}

export function setSurround(step: Surround): void {
  localStorage.setItem(STORE, step);
  applySurround();
  listeners.forEach((call) => call());
}

export function useSurround(): Surround {
  return useSyncExternalStore((call) => {
    listeners.add(call);
    return () => listeners.delete(call);
  }, kept);
}
