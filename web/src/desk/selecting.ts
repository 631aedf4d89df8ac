// What is selected, and whom the tools act on.
import { say } from "./steps";
import { active, desk, setDesk } from "./store";
import { type Control } from "../model/types";

export type How = "set" | "add" | "remove" | "toggle";

export function select(names: string[], how: How = "set", memberId?: number) {
  if (memberId !== undefined && memberId !== desk().activeId) {
    if (desk().locked)
      return say(`The tools are locked to ${active()?.name}. Take the lock off above the stage to act on another.`);
    actOn(memberId);
  }
  const now = new Set(how === "set" ? [] : desk().selection);
  for (const name of names) {
    if (how === "remove" || (how === "toggle" && now.has(name))) now.delete(name);
    else now.add(name);
  }
  setDesk({ selection: [...now], pivotOn: "" });
}

/** Turns all tools to a character of the cast. */
export const actOn = (memberId: number) =>
  setDesk({ activeId: memberId, selection: [], pivotOn: "", keysChosen: {}, columns: [] });

export const howOf = (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): How =>
  event.shiftKey ? "add" : event.ctrlKey || event.metaKey ? "remove" : "set";

/** The selection with all that hangs below it. */
export function selectBelow() {
  const member = active();
  if (!member) return;
  const inside = new Set(desk().selection);
  for (const control of member.rig.controls) if (inside.has(control.parent)) inside.add(control.name);
  setDesk({ selection: [...inside] });
}

export function selectAll() {
  const member = active();
  if (member) setDesk({ selection: member.rig.controls.map((c) => c.name) });
}

export const selected = (): Control[] => {
  const member = active();
  return member ? desk().selection.flatMap((name) => member.controls.get(name) ?? []) : [];
};

/** The controls that edits of poses act on; null is the whole character. Says why when nothing is chosen. */
export function partsActedOn(): string[] | null | undefined {
  const { parts, selection } = desk();
  if (parts === "whole") return null;
  if (selection.length) return selection;
  say("Nothing is selected, and the parts are set to “selection”: select some, or choose the whole character.");
  return undefined;
}

export function selectSet(set: { controls: string[]; pivot: string }) {
  setDesk({ selection: set.controls, pivotOn: set.pivot, ...(set.pivot ? { pivot: "one" as const } : {}) });
}

/** The same controls on the other side; one without another side stays. */
export function selectOtherSide() {
  const member = active();
  if (member) select(desk().selection.map((name) => member.controls.get(name)?.other ?? name));
}
