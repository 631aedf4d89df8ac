// What a pointer does on the sheet: choosing keys, drawing an area round them, dragging them along.
import { useState } from "react";
import { moveKeys } from "../../desk/arranging";
import { howOf } from "../../desk/selecting";
import { chooseKeys } from "../../desk/choosing";
import { type Member } from "../../desk/store";
import { placeNow } from "../../desk/time";
import type { Room } from "../../model/time";
import { LABELS } from "./labels";
import { ROW } from "./paint";
import { type Marks, type Row, storedFrames } from "./rows";

type Gesture =
  | { kind: "keys"; from: number; by: number; moved: boolean; at: { row: Row; frame: number } }
  | { kind: "box"; x: number; y: number; x2: number; y2: number };

/** Keys of one channel of one of the cast. */
interface Keys {
  of: number;
  address: string;
  frames: number[];
}

interface Sheet {
  active: Member;
  rows: Row[];
  marks: Map<string, Marks>;
  chosen: Record<string, number[]>;
  /** The same of others, by casting. */
  beside: Record<number, Record<string, number[]>>;
  editable: boolean;
  /** What the frames lie in. */
  lies: Room;
  /** Where a pointer is, in pixels of the sheet. */
  at: (event: React.PointerEvent) => { left: number; y: number };
}

export function useGestures({ active, rows, marks, chosen, beside, editable, lies, at }: Sheet) {
  const x = (frame: number) => placeNow(lies).x(frame);
  const frameAt = (left: number) => placeNow(lies).frameAt(left);
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const keyAt = (left: number, y: number) => {
    const row = rows[Math.floor(y / ROW)];
    const frame = frameAt(left);
    return row && Math.abs(x(frame) - left) <= 7 && marks.get(row.key)!.own.has(frame) ? { row, frame } : null;
  };
  const framesWith = (row: Row, test: (f: number) => boolean) => {
    const frames = storedFrames(row.member.clip);
    return row.addresses.flatMap((address): Keys[] => {
      const found = (frames.get(address) ?? []).filter(test);
      return found.length ? [{ of: row.member.id, address, frames: found }] : [];
    });
  };
  const chosenOf = (id: number) => (id === active.id ? chosen : (beside[id] ?? {}));
  const isChosen = (row: Row, frame: number) =>
    framesWith(row, (f) => f === frame).every(({ of, address }) => chosenOf(of)[address]?.includes(frame));

  function choose(found: Keys[], how: "set" | "add" | "remove" | "toggle") {
    const keeps = how !== "set";
    const all = new Map<number, Record<string, number[]>>([[active.id, keeps ? { ...chosen } : {}]]);
    if (keeps) for (const [id, keys] of Object.entries(beside)) all.set(Number(id), { ...keys });
    for (const { of, address, frames } of found) {
      const next = all.get(of) ?? {};
      all.set(of, next);
      const now = new Set(next[address] ?? []);
      for (const f of frames)
        if (how === "remove") now.delete(f);
        else now.add(f);
      if (now.size) next[address] = [...now].sort((a, b) => a - b);
      else delete next[address];
    }
    const others = [...all].filter(([id, keys]) => id !== active.id && Object.keys(keys).length);
    chooseKeys(all.get(active.id)!, Object.fromEntries(others));
  }

  function down(event: React.PointerEvent) {
    if (event.button !== 0) return;
    const { left, y } = at(event);
    if (left < LABELS) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const hit = keyAt(left, y);
    if (!hit) return setGesture({ kind: "box", x: left, y, x2: left, y2: y });
    const found = framesWith(hit.row, (f) => f === hit.frame);
    if (event.shiftKey) choose(found, isChosen(hit.row, hit.frame) ? "remove" : "add");
    else if (!isChosen(hit.row, hit.frame)) choose(found, "set");
    setGesture({ kind: "keys", from: hit.frame, by: 0, moved: false, at: hit });
  }
  function move(event: React.PointerEvent) {
    if (!gesture) return;
    const { left, y } = at(event);
    if (gesture.kind === "keys") {
      const by = frameAt(left) - gesture.from;
      if (by !== gesture.by) setGesture({ ...gesture, by, moved: true });
    } else setGesture({ ...gesture, x2: left, y2: y });
  }
  function up(event: React.PointerEvent) {
    if (!gesture) return;
    setGesture(null);
    if (gesture.kind === "keys") {
      if (gesture.by && editable) void moveKeys(gesture.by, event.ctrlKey || event.metaKey);
      else if (!gesture.moved && !event.shiftKey)
        choose(
          framesWith(gesture.at.row, (f) => f === gesture.at.frame),
          "set",
        );
      return;
    }
    const [a, b] = [Math.min(gesture.x, gesture.x2), Math.max(gesture.x, gesture.x2)];
    const [c, d] = [Math.min(gesture.y, gesture.y2), Math.max(gesture.y, gesture.y2)];
    const inside = rows.filter((_, n) => (n + 0.5) * ROW >= c && (n + 0.5) * ROW <= d);
    const found = inside.flatMap((row) => framesWith(row, (f) => x(f) >= a && x(f) <= b));
    choose(found, howOf(event));
  }

  return {
    moving: gesture?.kind === "keys" ? gesture.by : 0,
    area: gesture?.kind === "box" ? gesture : null,
    handlers: { onPointerDown: down, onPointerMove: move, onPointerUp: up },
  };
}
