// Copying and pasting: the keys chosen in the sheet, or else the pose that is seen; of each who is meant, its own.
import { keysByMember, keysChosenCount, layTurnedOver, moveColumns } from "./arranging";
import { commitFor, meant } from "./company";
import { say } from "./steps";
import { chooseKeys } from "./choosing";
import { active, desk, joined, type Member } from "./store";

type Rows = Record<string, number[][]>;
/** By casting: values of a pose, or rows of keys. */
type Copied =
  | { values: Map<number, Record<string, number>> }
  | { keys: Map<number, Rows>; count: number }
  | { columns: number[]; takeId: number };
let copied: Copied | null = null;

function rowsOf({ clip }: Member, keys: Record<string, number[]>): Rows {
  const found: Rows = {};
  for (const [address, frames] of Object.entries(keys)) {
    const rows = (clip.curves[address] ?? []).filter((row) => frames.includes(row[0]));
    if (rows.length) found[address] = rows;
  }
  return found;
}

function poseOf({ rig, pose }: Member): Record<string, number> {
  const values: Record<string, number> = {};
  rig.channels.forEach((channel, n) => {
    if (!channel.locked && channel.kind !== "scale") values[channel.address] = pose.values[n];
  });
  return values;
}

export function copy() {
  const member = active();
  if (!member) return;
  const { frame } = desk();
  const count = keysChosenCount();
  if (count) {
    copied = { keys: new Map(keysByMember().map(({ member: own, keys }) => [own.id, rowsOf(own, keys)])), count };
    return say(`${count} ${count === 1 ? "key is" : "keys are"} copied.`);
  }
  const { columns, takeId } = desk();
  if (columns.length > 1) {
    copied = { columns, takeId };
    return say(`${columns.length} columns are copied, from ${columns[0]} to ${columns[columns.length - 1]}.`);
  }
  const all = [member, ...joined()];
  copied = { values: new Map(all.map((own) => [own.id, poseOf(own)])) };
  say(`The whole pose of ${all.map((own) => own.name).join(", ")} at ${frame} is copied.`);
}

/** What was copied of one of the cast; of one alone it goes to whoever is meant. */
const ofOne = <T>(from: Map<number, T>, id: number): T | undefined =>
  from.get(id) ?? (from.size === 1 ? from.values().next().value : undefined);

/** Lays what was copied at the playhead, on the parts that are chosen; mirrored, or joined to the curves there. */
export function paste(mirror = false, joined = false) {
  if (!copied) return say("Nothing is copied yet: go to a frame and copy its pose.");
  const { frame, mirrored: how, shape } = desk();
  const mirrored = mirror ? how : null;
  if ("columns" in copied) return pasteColumns(copied, frame, mirror);
  if ("keys" in copied) return pasteKeys(copied.keys, frame, mirrored, joined);
  const { values } = copied;
  return commitFor(meant(), ({ member, controls }) => {
    const own = ofOne(values, member.id);
    return own ? { kind: "paste", frame, values: own, controls, mirrored, shape } : null;
  });
}

/** Columns with all that lies on them, plants too, laid from the playhead on. */
function pasteColumns({ columns, takeId }: { columns: number[]; takeId: number }, frame: number, mirror: boolean) {
  if (takeId !== desk().takeId) return say("These columns are of another take: copy keys or poses to bring them here.");
  const by = frame - columns[0];
  if (!by) return say("The playhead is where these columns are: go to where they shall lie.");
  return mirror ? layTurnedOver(columns, by) : moveColumns(columns, by, true);
}

type How = ReturnType<typeof desk>["mirrored"] | null;

function pasteKeys(copiedKeys: Map<number, Rows>, frame: number, mirrored: How, joined: boolean) {
  const member = active();
  if (!member) return;
  const { cast, activeId } = desk();
  // Keys of one go to whoever the tools act on; of several, each gets its own.
  const to = copiedKeys.size === 1 ? [member] : cast.filter(({ id }) => copiedKeys.has(id));
  const firstOf = (rows: Rows) => Math.min(...Object.values(rows).flatMap((row) => row.map(([f]) => f)));
  const first = Math.min(...[...copiedKeys.values()].map(firstOf));
  return commitFor(
    to.map((own) => ({ member: own, controls: null })),
    ({ member: own }) => {
      const keys = ofOne(copiedKeys, own.id)!;
      return { kind: "paste keys", frame: frame + firstOf(keys) - first, keys, mirrored, joined };
    },
  ).then((ok) => {
    if (!ok) return;
    // What was pasted is chosen; on the other side it lies under other names, which the graph then shows.
    const at = (rows: Rows) =>
      Object.fromEntries(Object.entries(rows).map(([a, row]) => [a, row.map(([f]) => f - first + frame)]));
    const laid = new Map(to.map((own) => [own.id, at(ofOne(copiedKeys, own.id)!)]));
    const last = Math.max(...[...laid.values()].flatMap((rows) => Object.values(rows).flat()));
    const beside = Object.fromEntries([...laid].filter(([id]) => id !== activeId));
    if (!mirrored) chooseKeys(laid.get(activeId) ?? {}, beside);
    const { shot } = desk();
    if (shot && last > shot.end) say(`Pasted up to ${last}, which is beyond the shot: it ends at ${shot.end}.`);
  });
}
