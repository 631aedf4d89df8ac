// Gaps between two poses: which one is worked on, and its timing chart.
import { useMemo } from "react";
import { ask, http } from "../api/client";
import { poseFrames } from "../model/columns";
import { chooseGap } from "./choosing";
import { active, desk, type DeskState, type Member, useDesk } from "./store";
import type { Chart } from "../model/types";

/** The gap that is worked on: as it was chosen, or the one about the playhead. */
export function gapOf(member: Member, s: DeskState = desk()): { first: number; last: number } | null {
  const poses = poseFrames(member);
  const { gap, frame } = s;
  if (gap && poses.includes(gap.first) && poses[poses.indexOf(gap.first) + 1] === gap.last) return gap;
  const at = poses.findIndex((f) => f > frame);
  if (poses.length < 2) return null;
  const n = at < 0 ? poses.length - 1 : Math.max(at, 1);
  return { first: poses[n - 1], last: poses[n] };
}

/** The same for panels: one object as long as the gap is the same. */
export function useGap(member: Member) {
  const told = useDesk((s) => {
    const gap = gapOf(member, s);
    return gap ? `${gap.first} ${gap.last}` : "";
  });
  return useMemo(() => {
    const [first, last] = told.split(" ").map(Number);
    return told ? { first, last } : null;
  }, [told]);
}

/** Goes on to the gap before or after. */
export function stepGap(by: 1 | -1) {
  const member = active();
  const now = member && gapOf(member);
  if (!member || !now) return;
  const poses = poseFrames(member);
  const at = poses.indexOf(now.first) + by;
  if (at >= 0 && at < poses.length - 1) chooseGap(poses[at], poses[at + 1]);
}

/** The gaps between the chosen columns, or else the one that is worked on. */
export function gapsChosen(member: Member): [number, number][] {
  const { columns } = desk();
  if (columns.length > 1) return columns.slice(1).map((last, n) => [columns[n], last]);
  const gap = gapOf(member);
  return gap ? [[gap.first, gap.last]] : [];
}

/** The charts of the gaps between some poses, for those who draw them small. */
export const chartsOf = (takeId: number, casting: number, frames: number[]) =>
  ask(
    http.GET("/api/takes/{take_id}/charts", {
      params: { path: { take_id: takeId }, query: { casting, frame: frames } },
    }),
  );

export const chartOf = (takeId: number, casting: number, first: number, last: number, controls: string[]) =>
  ask(
    http.GET("/api/takes/{take_id}/chart", {
      params: {
        path: { take_id: takeId },
        query: { casting, first, last, ...(controls.length ? { control: controls } : {}) },
      },
    }),
  );

export type { Chart };
