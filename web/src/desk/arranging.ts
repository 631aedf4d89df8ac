// Columns of the strip and keys of the sheet: moved, repeated, deleted.
import { partsActedOn } from "./selecting";
import { commit, say } from "./steps";
import { chooseColumns, letColumnsGo } from "./choosing";
import { desk, setDesk } from "./store";
import { scaled } from "../model/time";

export const keysChosenCount = () => Object.values(desk().keysChosen).reduce((sum, frames) => sum + frames.length, 0);

export function moveColumns(frames: number[], by: number, duplicate: boolean): Promise<boolean> {
  const controls = partsActedOn();
  if (by === 0 || controls === undefined) return Promise.resolve(false);
  return commit({ kind: duplicate ? "duplicate" : "move", frames, by, controls }).then((ok) => {
    if (ok) chooseColumns(frames.map((f) => f + by));
    return ok;
  });
}

/** Scales the timing of columns about a frame, to whole frames; what fell together is said. */
export function scaleColumns(frames: number[], about: number, factor: number): Promise<boolean> {
  const controls = partsActedOn();
  if (controls === undefined) return Promise.resolve(false);
  return commit({ kind: "scale", frames, about, factor, controls, along: false }).then((ok) => {
    if (ok) chooseColumns([...new Set(frames.map((f) => scaled(f, about, factor)))]);
    return ok;
  });
}

/** Deletes the keys chosen in the sheet, or else the selected columns. */
export function deleteChosen() {
  const { columns, keysChosen } = desk();
  const count = keysChosenCount();
  if (count)
    return commit({ kind: "delete keys", keys: keysChosen }).then((ok) => {
      if (!ok) return;
      setDesk({ keysChosen: {} });
      say(`${count} ${count === 1 ? "key" : "keys"} deleted.`);
    });
  if (!columns.length) return say("Select a column on the strip to delete its keys.");
  const controls = partsActedOn();
  if (controls === undefined) return;
  return commit({ kind: "delete", frames: columns, controls }).then((ok) => {
    if (!ok) return;
    letColumnsGo();
    say(`${columns.length === 1 ? "Column" : "Columns"} ${columns.join(", ")} deleted.`);
  });
}

export const moveKeys = (by: number, duplicate: boolean) => {
  const { keysChosen } = desk();
  return commit({ kind: duplicate ? "duplicate keys" : "move keys", keys: keysChosen, by }).then((ok) => {
    if (ok)
      setDesk({
        keysChosen: Object.fromEntries(Object.entries(keysChosen).map(([a, frames]) => [a, frames.map((f) => f + by)])),
      });
    return ok;
  });
};
