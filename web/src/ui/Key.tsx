import { keyOf, useKeySettings, type Action } from "../keys";

/** The key that does something, shown where it acts. Nothing while single keys are switched off. */
export function Key({ action }: { action: Action }) {
  const { on } = useKeySettings();
  if (!on) return null;
  return (
    <kbd className="key" aria-hidden="true">
      {keyOf(action).toUpperCase()}
    </kbd>
  );
}

/** For aria-keyshortcuts. */
export function shortcut(action: Action): string {
  return keyOf(action);
}
