import type View from "ol/View";
import { useEffect } from "react";

const WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
/** Pixels of the screen for one press. */
const STEP = 120;

/** Shift and the arrow keys move the picture, unless they move a pinned spot. */
export function usePanning(link: { view: View | null }, pinned: boolean): void {
  useEffect(() => {
    if (pinned) return undefined;
    const moved = (event: KeyboardEvent) => {
      const way = WAYS[event.key];
      if (!way || !event.shiftKey || event.ctrlKey || event.altKey || event.metaKey) return;
      if (document.querySelector("[role=dialog]") || !link.view) return;
      event.preventDefault();
      event.stopPropagation();
      const far = STEP * (link.view.getResolution() ?? 1);
      link.view.adjustCenter([way[0] * far, way[1] * far]);
    };
    // Before the ledger, which walks by the same keys without Shift.
    window.addEventListener("keydown", moved, true);
    return () => window.removeEventListener("keydown", moved, true);
  }, [link, pinned]);
}
