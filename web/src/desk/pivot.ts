// What the selection turns about, for the handle and for typed turns alike.
import { CONTROL } from "../model/motion";
import { active, desk } from "./store";
import type { Control } from "../model/types";

/** What of the selection can be moved or turned by the handle. */
export const posedSelection = (s = desk()): Control[] =>
  s.selection.flatMap((name) => active(s)?.controls.get(name) ?? []).filter((c) => c.posed);

/** The control that the handle stands on: the set's own, or else the last selected that is posed. */
export function handleControl(s = desk()): Control | undefined {
  const posed = posedSelection(s);
  return posed.length ? (active(s)!.controls.get(s.pivotOn) ?? posed[posed.length - 1]) : undefined;
}

/** The one place in the world that all turn about, in metres; null when each turns about its own. */
export function pivotPlace(s = desk()): number[] | null {
  const member = active(s);
  const control = handleControl(s);
  if (!member || !control) return null;
  if (s.dropped) return s.dropped;
  if (s.pivot === "each" || s.selection.length < 2) return null;
  const at = member.rig.controls.indexOf(control) * CONTROL;
  return [...member.pose.controls.slice(at, at + 3)];
}
