// Acts that change what of the open take is chosen: columns, keys, a channel, a gap, a plant, a mark.
import { keyFramesOfAll } from "../model/columns";
import { active, desk, joined, setDesk } from "./store";

/** Lets go of chosen keys and columns: what a key would act on is what is seen to be chosen. */
export const chooseNothing = () => setDesk({ columns: [], keysChosen: {}, keysBeside: {} });

/** Chooses whole columns; chosen keys are let go. */
export const chooseColumns = (columns: number[]) => setDesk({ columns, keysChosen: {}, keysBeside: {} });
export function chooseAllColumns() {
  const member = active();
  if (member) chooseColumns(keyFramesOfAll([member, ...joined()]));
}
export const letColumnsGo = () => setDesk({ columns: [] });

/** Chooses keys, frames by channel; chosen columns are let go. */
export const chooseKeys = (
  keysChosen: Record<string, number[]>,
  keysBeside: Record<number, Record<string, number[]>> = {},
) => setDesk({ keysChosen, keysBeside, columns: [] });

/** Of chosen keys only those of some channels stay chosen. */
export function keepKeysOf(addresses: Set<string>) {
  const chosen = Object.entries(desk().keysChosen);
  const kept = chosen.filter(([address]) => addresses.has(address));
  if (kept.length < chosen.length) setDesk({ keysChosen: Object.fromEntries(kept) });
}

/** Points at a channel, whose axis is drawn on the stage; at none with "". */
export const pointAt = (pointed: string) => setDesk({ pointed });

export const chooseGap = (first: number, last: number) => setDesk({ gap: { first, last } });
export const markPlant = (plant: { control: string; start: number } | null) => setDesk({ plant });
export const markPath = (mark: { path: number; frame: number }) => setDesk({ mark });
/** Says over which frames a template was laid. */
export const laidOver = (start: number, end: number) => setDesk({ laid: { start, end } });
/** Makes the whole pose from few parts that are placed; null: the body is pulled. */
export const placeFew = (casting: number, parts: Record<string, { turn: boolean }> | null) =>
  setDesk({ few: parts && { casting, parts } });
/** Drops a pivot at a place of the world, or takes it away. */
export const pivotAt = (dropped: [number, number, number] | null) => setDesk({ dropped });
/** Tools stay on the active character, or follow the selection. */
export const lock = (locked: boolean) => setDesk({ locked });
