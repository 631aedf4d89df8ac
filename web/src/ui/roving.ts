// Groups whose parts are reached by arrow keys: Tab enters at the part it was left on, and leaves the group whole.
import { type FocusEvent, type KeyboardEvent, type MouseEvent, type RefObject, useEffect, useRef } from "react";

/** What marks a part; on elements that are no buttons themselves, Enter clicks them all the same. */
export const PART = { "data-part": true, tabIndex: -1 } as const;

const partsOf = (box: Element | null) => [...(box?.querySelectorAll<HTMLElement | SVGElement>("[data-part]") ?? [])];

const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The part that lies nearest in a direction, what lies aside counting double; null where there is none. */
function nearest(parts: Element[], from: Element, [dx, dy]: [number, number]): Element | null {
  const middle = (e: Element) => {
    const r = e.getBoundingClientRect();
    return [r.x + r.width / 2, r.y + r.height / 2];
  };
  const [x, y] = middle(from);
  let [best, least] = [null as Element | null, Infinity];
  for (const part of parts) {
    const [px, py] = middle(part);
    const along = (px - x) * dx + (py - y) * dy;
    const aside = Math.abs((px - x) * dy + (py - y) * dx);
    if (part === from || along <= 0.5) continue;
    const way = along + 2 * aside;
    if (way < least) [best, least] = [part, way];
  }
  return best;
}

/**
 * Handlers of the element round the parts. In a `line` the arrows go to the part before and after, on a `plane` to the
 * nearest in their direction; Enter works the part, with Shift and Ctrl as a click has them. A click does not take the
 * focus there, so that the keys of the desk go on to mean the same.
 */
export function useRoving<T extends Element>(way: "line" | "plane") {
  const box = useRef<T>(null);
  // After every drawing: parts come and go, and one of them must stay reachable by Tab.
  useEffect(() => {
    const parts = partsOf(box.current);
    if (parts.length && !parts.some((part) => part.tabIndex === 0)) parts[0].tabIndex = 0;
  });
  return {
    ref: box as RefObject<T>,
    onMouseDown(event: MouseEvent) {
      if ((event.target as Element).closest("[data-part]")) event.preventDefault();
    },
    onFocus(event: FocusEvent) {
      const part = (event.target as Element).closest("[data-part]");
      if (part) for (const other of partsOf(box.current)) other.tabIndex = other === part ? 0 : -1;
    },
    onKeyDown(event: KeyboardEvent) {
      const part = (event.target as Element).closest("[data-part]");
      if (!part || event.altKey) return;
      const parts = partsOf(box.current);
      const step = event.ctrlKey || event.metaKey || event.shiftKey ? undefined : STEPS[event.key];
      if (step) {
        const to =
          way === "plane" ? nearest(parts, part, step) : parts[parts.indexOf(part as HTMLElement) + step[0] + step[1]];
        (to as HTMLElement | undefined)?.focus();
      } else if (event.key === "Home") parts[0].focus();
      else if (event.key === "End") parts[parts.length - 1].focus();
      else if (event.key === "Enter") {
        const { shiftKey, ctrlKey, metaKey } = event;
        part.dispatchEvent(new window.MouseEvent("click", { bubbles: true, shiftKey, ctrlKey, metaKey }));
      } else return;
      event.preventDefault();
      event.stopPropagation();
    },
  };
}
