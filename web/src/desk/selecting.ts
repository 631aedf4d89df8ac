// What is selected, and whom the tools act on.
import { say } from "./steps";
import { active, desk, setDesk } from "./store";
import { type Control } from "../model/types";

export type How = "set" | "add" | "remove" | "toggle";

export function select(names: string[], how: How = "set", memberId?: number) {
  if (memberId !== undefined && memberId !== desk().activeId) {
    if (desk().locked)
      return say(`The tools are locked to ${active()?.name}. Take the lock off above the stage to act on another.`);
    if (how !== "set") return selectBeside(names, how, memberId);
    actOn(memberId);
  } else if (how === "set") letSelectionBesideGo();
  const now = new Set(how === "set" ? [] : desk().selection);
  for (const name of names) {
    if (how === "remove" || (how === "toggle" && now.has(name))) now.delete(name);
    else now.add(name);
  }
  setDesk({ selection: [...now], pivotOn: "" });
}

/** Controls of another of the cast, which is meant as well from then on. */
function selectBeside(names: string[], how: How, memberId: number) {
  const { company } = desk();
  const now = new Set(company[memberId] ?? []);
  for (const name of names) {
    if (how === "remove" || (how === "toggle" && now.has(name))) now.delete(name);
    else now.add(name);
  }
  const rest = Object.fromEntries(Object.entries(company).filter(([id]) => Number(id) !== memberId));
  setDesk({ company: now.size ? { ...rest, [memberId]: [...now] } : rest });
}

/** What was selected of others is let go; who joined as a whole stays. */
function letSelectionBesideGo() {
  const { company } = desk();
  const whole = Object.entries(company).filter(([, names]) => !names.length);
  if (whole.length < Object.keys(company).length) setDesk({ company: Object.fromEntries(whole) });
}

/** Turns all tools to a character of the cast. */
export const actOn = (memberId: number) => {
  const { activeId, company } = desk();
  // One of several that are meant is turned to: they stay meant together.
  const stays = memberId in company;
  const others = Object.entries(company).filter(([id]) => Number(id) !== memberId);
  setDesk({
    activeId: memberId,
    selection: stays ? company[memberId] : [],
    company: stays ? { ...Object.fromEntries(others), [activeId]: [] } : {},
    pivotOn: "",
    keysChosen: {},
    keysBeside: {},
    columns: [],
    wayChosen: null,
  });
};

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

export function selectSet(set: { controls: string[]; pivot: string; beside: Record<string, string[]> }) {
  const plays = new Set(desk().cast.map((member) => member.id));
  const company = Object.fromEntries(Object.entries(set.beside).filter(([id]) => plays.has(Number(id))));
  setDesk({ selection: set.controls, company, pivotOn: set.pivot, ...(set.pivot ? { pivot: "one" as const } : {}) });
}

/** The same controls on the other side; one without another side stays. */
export function selectOtherSide() {
  const member = active();
  if (member) select(desk().selection.map((name) => member.controls.get(name)?.other ?? name));
}

/** From now on a press on the skin of a face means the zone nearest there, until what is returned is called. */
export function meanZones(): () => void {
  setDesk({ byZones: true });
  return () => setDesk({ byZones: false });
}
