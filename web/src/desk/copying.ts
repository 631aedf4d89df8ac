// Copying and pasting: the keys chosen in the sheet, or else the pose that is seen.
import { keysChosenCount } from "./arranging";
import { partsActedOn } from "./selecting";
import { commit, say } from "./steps";
import { chooseKeys } from "./choosing";
import { active, desk } from "./store";

type Copied = { values: Record<string, number>; name: string } | { keys: Record<string, number[][]>; count: number };
let copied: Copied | null = null;

export function copy() {
  const member = active();
  if (!member) return;
  const { frame, keysChosen } = desk();
  const count = keysChosenCount();
  if (count) {
    const keys: Record<string, number[][]> = {};
    for (const [address, frames] of Object.entries(keysChosen)) {
      const rows = (member.clip.curves[address] ?? []).filter((row) => frames.includes(row[0]));
      if (rows.length) keys[address] = rows;
    }
    copied = { keys, count };
    return say(`${count} ${count === 1 ? "key is" : "keys are"} copied.`);
  }
  const values: Record<string, number> = {};
  member.rig.channels.forEach((channel, n) => {
    if (!channel.locked && channel.kind !== "scale") values[channel.address] = member.pose.values[n];
  });
  copied = { values, name: member.name };
  say(`The whole pose of ${member.name} at ${frame} is copied.`);
}

/** Lays what was copied at the playhead, on the parts that are chosen; mirrored, or joined to the curves there. */
export function paste(mirror = false, joined = false) {
  if (!copied) return say("Nothing is copied yet: go to a frame and copy its pose with Ctrl+C.");
  const { frame, mirrored: how, shape } = desk();
  const mirrored = mirror ? how : null;
  if ("keys" in copied) {
    const { keys } = copied;
    const first = Math.min(...Object.values(keys).flatMap((rows) => rows.map((row) => row[0])));
    return commit({ kind: "paste keys", frame, keys, mirrored, joined }).then((ok) => {
      if (!ok) return;
      // What was pasted is chosen; on the other side it lies under other names, which the graph then shows.
      const at = Object.entries(keys).map(([a, rows]) => [a, rows.map((row) => row[0] - first + frame)] as const);
      const last = Math.max(...at.flatMap(([, frames]) => frames));
      if (!mirrored) chooseKeys(Object.fromEntries(at));
      const { shot } = desk();
      if (shot && last > shot.end) say(`Pasted up to ${last}, which is beyond the shot: it ends at ${shot.end}.`);
    });
  }
  const controls = partsActedOn();
  if (controls === undefined) return;
  return commit({ kind: "paste", frame, values: copied.values, controls, mirrored, shape });
}
