// The one store of the page, made of slices. Panels read it through React; the stage and playback read it directly.
import { create } from "zustand";
import { awayOf, type Own } from "../model/groups";
import { person, type PersonState } from "./state/person";
import { selection, type SelectionState } from "./state/selection";
import type { Slice } from "./state/slice";
import { sync, type SyncState } from "./state/sync";
import { take, type Member, type TakeState } from "./state/take";
import { trial, type TrialState } from "./state/trial";
import { view, type ViewState } from "./state/view";
import type { Channel, Control } from "../model/types";

export type { Member, Person } from "./state/take";
export type { Aside } from "./state/sync";
export type { Grip, Leanings } from "./state/view";

export type DeskState = TakeState & SelectionState & TrialState & ViewState & SyncState & PersonState;

const SLICES: Slice<object>[] = [take, selection, trial, view, sync, person];
const begun = <T extends object>(...slices: Slice<object>[]): T => Object.assign({}, ...slices.map((s) => s.initial()));

/** All that is of the open take, as it is before anything is known of it. What is of the page is not in it. */
export const freshTake = () =>
  begun<TakeState & SelectionState & TrialState>(...SLICES.filter(({ scope }) => scope === "take"));

const store = create<DeskState>()(() => begun<DeskState>(...SLICES));

type Select<T> = (s: DeskState) => T;

/** Whether selectors are looked at: in tests, which say so by what they leave on the window. */
const looked = typeof window !== "undefined" && "hame" in window;

/**
 * The store in React. What a selector answers has to be the same as long as the store is: a new object each time draws
 * the panel again without end.
 */
function useStore<T>(select: Select<T>): T {
  if (looked && !Object.is(select(store.getState()), select(store.getState())))
    throw new Error(`A selector answers a new object at every read: ${select.toString()}`);
  return store(select);
}
export const useDesk = Object.assign(useStore, {
  getState: store.getState,
  setState: store.setState,
  subscribe: store.subscribe,
});

export const desk = useDesk.getState;
export const setDesk = useDesk.setState;

export const active = (s: DeskState = desk()): Member | undefined => s.cast.find((m) => m.id === s.activeId);
/** Those that are meant as well as the active one, in the order of the cast. */
export const joined = (s: DeskState = desk()): Member[] =>
  s.cast.filter((member) => member.id !== s.activeId && member.id in s.company);
export const canChange = (s: DeskState = desk()) => s.shot?.can_change ?? false;

/** What listens to every shown pose and playhead place without React: the stage, the playhead. */
const watchers = new Set<() => void>();
export function onShow(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => void watchers.delete(watcher);
}
export function shown() {
  for (const watcher of watchers) watcher();
}

/** The playhead while playing, which React does not follow. */
export const playhead = { frame: 1, rate: 0, dropped: 0 };

const putAway = new WeakMap<Member, { hidden: object; own: Own | undefined; away: ReadonlySet<string> }>();
/** The controls of one of the cast that are hidden: by the part of the body, by a group, or each by itself. */
export function hiddenOf(member: Member, s: DeskState = desk()): ReadonlySet<string> {
  const hidden = s.looks.hidden;
  const own = s.groups[member.id];
  const known = putAway.get(member);
  if (known && known.hidden === hidden && known.own === own) return known.away;
  const away = awayOf(member.rig.controls, member.rig.groups, (control) => hidden[groupOf(control)] ?? false, own);
  putAway.set(member, { hidden, own, away });
  return away;
}

/** A limb's present mode decides which of its controls are to hand. */
export function modeOf(member: Member, limb: string): "ik" | "fk" {
  const found = member.rig.limbs.find((l) => l.name === limb);
  if (!found) return "fk";
  const number = member.channels.get(found.switch);
  return number !== undefined && member.pose.values[number] > 0.5 ? "ik" : "fk";
}

/** Whether a control is to hand now: of its limb's present mode, and not hidden. */
export function toHand(member: Member, control: Control, hidden: ReadonlySet<string>): boolean {
  if (control.mode && control.mode !== modeOf(member, control.limb)) return false;
  return !hidden.has(control.name);
}

export type Group = "whole" | "trunk" | "head" | "arms" | "hands" | "legs" | "face" | "aims" | "parts" | "further";
export const GROUPS: [Group, string][] = [
  ["whole", "Master and body"],
  ["trunk", "Trunk"],
  ["head", "Neck and head"],
  ["arms", "Arms"],
  ["hands", "Fingers"],
  ["legs", "Legs and feet"],
  ["face", "Face"],
  ["aims", "Knee and elbow aims"],
  ["parts", "Moving parts"],
  ["further", "Coat, cap and the rest"],
];

export function groupOf(control: Control): Group {
  if (control.kind === "pole") return "aims";
  if (control.kind === "master" || control.kind === "body") return "whole";
  if (control.kind === "part") return "parts";
  if (control.part === "face" || control.kind === "shapes") return "face";
  if (control.kind === "finger") return "hands";
  if (["extra", "chain", "tip"].includes(control.kind)) return "further";
  if (control.part === "head") return "head";
  if (control.part.startsWith("arm")) return "arms";
  if (control.part.startsWith("leg")) return "legs";
  return "trunk";
}

/** The value of a channel as it is shown now. */
export function valueOf(member: Member, channel: number, s: DeskState = desk()): number {
  return s.dragged?.get(channel) ?? member.pose.values[channel];
}

export function channelsOf(member: Member, control: Control): Channel[] {
  return member.rig.channels.slice(control.first, control.first + control.count);
}
