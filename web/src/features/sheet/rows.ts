// The sheet's rows: parts of the body, their controls, and the channels of these.
import { addressIn } from "../../model/layers";
import { shownOn } from "../../model/columns";
import { GROUPS, groupOf, type Member } from "../../desk/store";
import type { Clip } from "../../model/types";

export interface Row {
  key: string;
  /** Whose it is. */
  member: Member;
  depth: 0 | 1 | 2;
  label: string;
  side: string;
  controls: string[];
  addresses: string[];
}

/** All rows that are shown, of the motion or of a layer: closed ones hide what is below them. */
export function rowsOf(member: Member, open: Set<string>, only: Set<string> | null, layer = 0): Row[] {
  const rows: Row[] = [];
  const channels = member.rig.channels;
  const addressesOf = (first: number, count: number) =>
    channels
      .slice(first, first + count)
      .filter((c) => !c.locked)
      .map((c) => addressIn(layer, c.address));
  for (const [group, label] of GROUPS) {
    const controls = member.rig.controls.filter((c) => groupOf(c) === group && (!only || only.has(c.name)));
    if (!controls.length) continue;
    rows.push({
      key: `part ${group}`,
      member,
      depth: 0,
      label,
      side: "",
      controls: controls.map((c) => c.name),
      addresses: controls.flatMap((c) => addressesOf(c.first, c.count)),
    });
    if (!open.has(`part ${group}`)) continue;
    for (const control of controls) {
      const addresses = addressesOf(control.first, control.count);
      rows.push({
        key: control.name,
        member,
        depth: 1,
        label: control.label,
        side: control.side,
        controls: [control.name],
        addresses,
      });
      if (!open.has(control.name)) continue;
      for (const channel of channels.slice(control.first, control.first + control.count))
        if (!channel.locked)
          rows.push({
            key: channel.address,
            member,
            depth: 2,
            label: channel.label,
            side: control.side,
            controls: [control.name],
            addresses: [addressIn(layer, channel.address)],
          });
    }
  }
  return rows;
}

/** A row for each of those that are meant as well, which opens to its parts. */
export function besideOf(others: Member[], open: Set<string>): Row[] {
  return others.flatMap((member): Row[] => {
    const key = `of ${member.id}`;
    const parts = rowsOf(member, new Set(), null).map((row): Row => ({ ...row, key: `${key} ${row.key}`, depth: 1 }));
    const whole: Row = {
      key,
      member,
      depth: 0,
      label: member.name,
      side: "",
      controls: member.rig.controls.map((control) => control.name),
      addresses: parts.flatMap((row) => row.addresses),
    };
    return open.has(key) ? [whole, ...parts] : [whole];
  });
}

const stored = new WeakMap<Clip, Map<string, number[]>>();

/** Frames of the stored keys of every channel. */
export function storedFrames(clip: Clip): Map<string, number[]> {
  let found = stored.get(clip);
  if (!found) {
    found = new Map(Object.entries(clip.curves).map(([address, rows]) => [address, rows.map((row) => row[0])]));
    stored.set(clip, found);
  }
  return found;
}

export interface Marks {
  own: Set<number>;
  /** Frames whose keys are derived from others. */
  derived: Set<number>;
  /** The same, rising: own ones, and those that are derived alone. */
  rising: { own: number[]; derived: number[] };
}

/** The frames on which a row has keys: of its own, and derived ones, which echoes bring from the other side. */
export function marksOf(row: Row): Marks {
  const { member } = row;
  const frames = storedFrames(member.clip);
  const own = new Set<number>();
  const derived = new Set<number>();
  const { clip } = member;
  for (const address of row.addresses) {
    const mine = frames.get(address) ?? [];
    for (const f of mine) own.add(f);
    if (!clip.follows.length) continue;
    const number = member.channels.get(address);
    if (number === undefined) continue; // of a layer, whose keys no cycle shows again
    const { echo } = member.rig.channels[number];
    for (const f of mine) for (const shown of shownOn(clip, f)) if (!shown.mirrored) derived.add(shown.frame);
    for (const f of frames.get(echo) ?? [])
      for (const shown of shownOn(clip, f)) if (shown.mirrored) derived.add(shown.frame);
  }
  const rising = (frames: Iterable<number>) => [...frames].sort((a, b) => a - b);
  const alone = [...derived].filter((f) => !own.has(f));
  return { own, derived, rising: { own: rising(own), derived: rising(alone) } };
}
