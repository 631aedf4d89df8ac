// What a hand does on the columns: chooses, drags, duplicates, draws a band round them, scales them by their ends.
import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { layTurnedOver, moveColumns, scaleColumns } from "../../desk/arranging";
import { chooseColumns, letColumnsGo } from "../../desk/choosing";
import { unlessGone } from "../../desk/after";
import { go } from "../../desk/playing";
import { howOf } from "../../desk/selecting";
import { active, canChange, desk, joined } from "../../desk/store";
import { between, scaled } from "../../model/time";
import { derived, keyFramesOfAll } from "../../model/columns";
import type { ColumnActs } from "./Columns";

type Held =
  | { what: "columns"; frames: number[]; by: number; from: number }
  | { what: "band"; from: number; to: number; moved: boolean }
  | { what: "end"; frames: number[]; about: number; end: number; to: number };

/** Where a column is drawn while something is held. */
export const movedTo = (held: Held | null, frame: number): number => {
  if (held?.what === "columns" && held.frames.includes(frame)) return frame + held.by;
  if (held?.what === "end" && held.frames.includes(frame)) return scaled(frame, held.about, factorOf(held));
  return frame;
};
const factorOf = ({ about, end, to }: Extract<Held, { what: "end" }>) =>
  // It is never turned round, nor shrunk to nothing.
  Math.max((to - about) / (end - about), 1 / Math.abs(end - about));

type Pointer = Record<"onPointerDown" | "onPointerMove" | "onPointerUp", (event: React.PointerEvent) => void>;

export function useColumnDrag(
  frameAt: (clientX: number) => number,
  timeAt: (clientX: number) => number,
  focus: RefObject<SVGSVGElement | null>,
) {
  const [held, setHeld] = useState<Held | null>(null);
  const now = useRef({ held, frameAt, timeAt });
  now.current = { held, frameAt, timeAt };

  useEffect(() => {
    const escape = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || !now.current.held) return;
      event.stopPropagation();
      setHeld(null);
    };
    window.addEventListener("keydown", escape, true);
    return () => window.removeEventListener("keydown", escape, true);
  }, []);

  /** Chooses a column: alone, added with Shift, or with those that it is chosen among. */
  const choose = useCallback((at: number, add: boolean, among: boolean): number[] => {
    const { columns } = desk();
    const kept = among && !add && columns.includes(at);
    const many = (add ? [...new Set([...columns, at])] : kept ? columns : [at]).slice().sort((a, b) => a - b);
    chooseColumns(many);
    return many;
  }, []);

  const band = useRef<Pointer>(null!);
  const acts = useMemo<ColumnActs>(
    () => ({
      down(event, at) {
        if (event.button !== 0) return event.stopPropagation();
        if (event.altKey) return band.current.onPointerDown(event); // where there is no room beside a column
        event.stopPropagation();
        (event.currentTarget as Element).setPointerCapture(event.pointerId);
        const many = choose(at, event.shiftKey, true);
        const member = active();
        if (member && canChange() && !derived(member.clip, at))
          setHeld({ what: "columns", frames: many, by: 0, from: at });
        else go(at);
      },
      move(event) {
        const { held: mine, frameAt: at } = now.current;
        if (mine?.what === "band") band.current.onPointerMove(event);
        if (mine?.what === "columns") setHeld({ ...mine, by: at(event.clientX) - mine.from });
      },
      up(event) {
        const mine = now.current.held;
        if (mine?.what === "band") band.current.onPointerUp(event);
        if (mine?.what !== "columns") return;
        setHeld(null);
        const { frames, by, from } = mine;
        if (by === 0) go(from);
        else if (event.shiftKey) void layTurnedOver(frames, by).then(unlessGone(() => go(from + by)));
        else void moveColumns(frames, by, event.ctrlKey || event.metaKey).then(unlessGone(() => go(from + by)));
      },
      /** Alt with an arrow moves the column, and those chosen with it, by a frame. */
      key(event, at) {
        const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (!event.altKey || !by) return;
        event.preventDefault();
        event.stopPropagation();
        const member = active();
        if (!member || !canChange() || derived(member.clip, at)) return;
        const { columns } = desk();
        void moveColumns(columns.includes(at) ? columns : [at], by, false).then(
          unlessGone(() => {
            go(at + by);
            setTimeout(() => focus.current?.querySelector<SVGElement>(`[data-column="${at + by}"]`)?.focus());
          }),
        );
      },
      choose(at, add) {
        choose(at, add, false);
        go(at);
      },
    }),
    [choose, focus],
  );

  const bandOf = {
    onPointerDown(event: React.PointerEvent) {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      const at = timeAt(event.clientX);
      setHeld({ what: "band", from: at, to: at, moved: false });
    },
    onPointerMove(event: React.PointerEvent) {
      if (held?.what !== "band") return;
      const to = timeAt(event.clientX);
      setHeld({ ...held, to, moved: held.moved || Math.abs(to - held.from) > 0.4 });
    },
    onPointerUp(event: React.PointerEvent) {
      if (held?.what !== "band") return;
      setHeld(null);
      const member = active();
      const [from, to] = [Math.min(held.from, held.to), Math.max(held.from, held.to)];
      if (!held.moved || !member) {
        letColumnsGo();
        return go(frameAt(event.clientX));
      }
      const inside = between(keyFramesOfAll([member, ...joined()]), from, to);
      const { columns } = desk();
      const how = howOf(event);
      const next =
        how === "set" ? inside : how === "add" ? [...columns, ...inside] : columns.filter((f) => !inside.includes(f));
      chooseColumns([...new Set(next)].sort((a, b) => a - b));
    },
  };

  const endOf = (frames: number[], which: "first" | "last") => ({
    onPointerDown(event: React.PointerEvent) {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      const [first, last] = [frames[0], frames[frames.length - 1]];
      const end = which === "last" ? last : first;
      setHeld({ what: "end", frames, about: which === "last" ? first : last, end, to: end });
    },
    onPointerMove(event: React.PointerEvent) {
      if (held?.what === "end") setHeld({ ...held, to: frameAt(event.clientX) });
    },
    onPointerUp() {
      if (held?.what !== "end") return;
      setHeld(null);
      const factor = factorOf(held);
      if (factor !== 1) void scaleColumns(held.frames, held.about, factor);
    },
  });

  band.current = bandOf;
  return { held, acts, band: bandOf, endOf };
}
