import { fireEvent, render } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import {
  ACTIONS,
  changeKey,
  keyOf,
  resetKeys,
  switchKeys,
  together,
  useKeys,
  type Action,
  type Handlers,
} from "./keys";

function Keys({ handlers }: { handlers: Handlers }) {
  useKeys(handlers);
  return <input aria-label="field" />;
}

afterEach(resetKeys);

describe("keys", () => {
  it("has no key twice among what one screen does", () => {
    const actions = Object.keys(ACTIONS) as Action[];
    const clashes = actions.flatMap((one, i) =>
      actions
        .slice(i + 1)
        .filter((other) => together(one, other) && ACTIONS[one].key === ACTIONS[other].key)
        .map((other) => `${one} and ${other}`),
    );
    expect(clashes).toEqual([]);
    expect(together("passes", "rework") && together("undo", "zoomActual")).toBe(true);
  });

  it("acts once, ignores repeats, fields and combinations", () => {
    const passes = vi.fn();
    const { getByLabelText } = render(<Keys handlers={{ passes }} />);
    fireEvent.keyDown(window, { key: "j" });
    fireEvent.keyDown(window, { key: "j", repeat: true });
    fireEvent.keyDown(window, { key: "j", ctrlKey: true });
    fireEvent.keyDown(getByLabelText("field"), { key: "j" });
    expect(passes).toHaveBeenCalledTimes(1);
  });

  it("lets a held key go when it comes up or the window loses focus", () => {
    const swap = vi.fn();
    render(<Keys handlers={{ swap }} />);
    fireEvent.keyDown(window, { key: "s" });
    fireEvent.keyUp(window, { key: "s" });
    fireEvent.keyDown(window, { key: "s" });
    fireEvent.blur(window);
    expect(swap.mock.calls.map(([down]) => down as boolean)).toEqual([true, false, true, false]);
  });

  it("can be changed, refuses a key that is taken, and can be switched off", () => {
    const passes = vi.fn();
    render(<Keys handlers={{ passes }} />);
    expect(changeKey("passes", "m")).toMatch(/already means/);
    expect(changeKey("passes", "ö")).toBeNull();
    expect(keyOf("passes")).toBe("ö");
    fireEvent.keyDown(window, { key: "ö" });
    switchKeys(false);
    fireEvent.keyDown(window, { key: "ö" });
    expect(passes).toHaveBeenCalledTimes(1);
  });
});
