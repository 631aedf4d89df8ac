// Columns of the strip and keys of the sheet: moved, repeated, deleted.
import { commitFor, keyedOn, meant } from "./company";
import { say } from "./steps";
import { chooseColumns, chooseKeys, chooseNothing, letColumnsGo } from "./choosing";
import { active, desk, type Member } from "./store";
import type { AnyEdit } from "../model/types";
import { scaled } from "../model/time";

/** The chosen keys by whose they are: of the active one, and of those that are meant as well. */
export function keysByMember(): { member: Member; keys: Record<string, number[]> }[] {
  const { keysChosen, keysBeside, cast } = desk();
  const member = active();
  const beside = cast.flatMap((other) => (keysBeside[other.id] ? [{ member: other, keys: keysBeside[other.id] }] : []));
  const all = member ? [{ member, keys: keysChosen }, ...beside] : beside;
  return all.filter(({ keys }) => Object.keys(keys).length);
}
const countOf = (keys: Record<string, number[]>) => Object.values(keys).reduce((sum, frames) => sum + frames.length, 0);
export const keysChosenCount = () => keysByMember().reduce((sum, { keys }) => sum + countOf(keys), 0);
/** One step about the chosen keys of each. */
function aboutKeys(make: (keys: Record<string, number[]>) => AnyEdit) {
  const mine = keysByMember();
  return commitFor(
    mine.map(({ member }) => ({ member, controls: null })),
    ({ member }) => make(mine.find((one) => one.member === member)!.keys),
  );
}

export function moveColumns(frames: number[], by: number, duplicate: boolean): Promise<boolean> {
  if (by === 0) return Promise.resolve(false);
  const kind = duplicate ? "duplicate" : "move";
  return commitFor(keyedOn(meant(), frames), ({ controls }) => ({ kind, frames, by, controls })).then((ok) => {
    if (ok) chooseColumns(frames.map((f) => f + by));
    return ok;
  });
}

/** Lays columns so many frames later with left and right changed; they themselves stay. */
export function layTurnedOver(frames: number[], by: number): Promise<boolean> {
  if (by === 0) return Promise.resolve(false);
  const { mirrored: how, keying } = desk();
  const [first, last] = [frames[0], frames[frames.length - 1]];
  return commitFor(keyedOn(meant(), frames), ({ controls }) =>
    frames.length === 1
      ? { kind: "mirror", frame: first, to: first + by, way: "swap", controls, how, keying }
      : { kind: "mirror range", first, last, to: first + by, controls, how },
  ).then((ok) => {
    if (ok) chooseColumns(frames.map((f) => f + by));
    return ok;
  });
}

/** Scales the timing of columns about a frame, to whole frames; what fell together is said. */
export function scaleColumns(frames: number[], about: number, factor: number): Promise<boolean> {
  return commitFor(keyedOn(meant(), frames), ({ controls }) => ({
    kind: "scale",
    frames,
    about,
    factor,
    controls,
    along: false,
  })).then((ok) => {
    if (ok) chooseColumns([...new Set(frames.map((f) => scaled(f, about, factor)))]);
    return ok;
  });
}

/** Deletes the keys chosen in the sheet, or else the selected columns. */
export function deleteChosen() {
  const { columns } = desk();
  const count = keysChosenCount();
  if (count)
    return aboutKeys((keys) => ({ kind: "delete keys", keys })).then((ok) => {
      if (!ok) return;
      chooseNothing();
      say(`${count} ${count === 1 ? "key" : "keys"} deleted.`);
    });
  if (!columns.length) return say("Select a column on the strip to delete its keys.");
  return commitFor(keyedOn(meant(), columns), ({ controls }) => ({ kind: "delete", frames: columns, controls })).then(
    (ok) => {
      if (!ok) return;
      letColumnsGo();
      say(`${columns.length === 1 ? "Column" : "Columns"} ${columns.join(", ")} deleted.`);
    },
  );
}

export const moveKeys = (by: number, duplicate: boolean) => {
  const { keysChosen, keysBeside } = desk();
  const moved = (keys: Record<string, number[]>) =>
    Object.fromEntries(Object.entries(keys).map(([a, frames]) => [a, frames.map((f) => f + by)]));
  return aboutKeys((keys) => ({ kind: duplicate ? "duplicate keys" : "move keys", keys, by })).then((ok) => {
    if (ok)
      chooseKeys(
        moved(keysChosen),
        Object.fromEntries(Object.entries(keysBeside).map(([id, keys]) => [id, moved(keys)])),
      );
    return ok;
  });
};
