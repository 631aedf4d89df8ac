// What is looked up about the open take: one way for panels and for what the stage draws. It is kept by take and
// revision, so that it is asked for once whoever wants it, and a late answer never stands for a newer one.
import { keepPreviousData, type QueryKey, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask, http } from "../api/client";
import { queries } from "../api/queries";
import { desk, type DeskState, setDesk, useDesk } from "./store";
import type { Shot } from "../model/types";

interface LookUp<T> {
  /** What it is called, and what it is asked of besides the take. */
  what: string;
  of: readonly unknown[];
  ask: (takeId: number) => Promise<T>;
  enabled?: boolean;
  /** Whether an answer from before is shown until there is a new one; most are. */
  keep?: boolean | ((before: T) => boolean);
}

type Now = Pick<DeskState, "takeId" | "revision">;
const keyOf = (what: string, now: Now, of: readonly unknown[]): QueryKey => [what, now.takeId, now.revision, ...of];

/** What a panel shows of the take as it is now, looked up anew after each step. */
export function useLookUp<T>({ what, of, ask, enabled = true, keep = true }: LookUp<T>) {
  const takeId = useDesk((s) => s.takeId);
  const revision = useDesk((s) => s.revision);
  return useQuery<T>({
    queryKey: keyOf(what, { takeId, revision }, of),
    queryFn: () => ask(takeId),
    enabled: enabled && takeId > 0,
    retry: false,
    // A function of T cannot be told from a T that is a function; no answer is one.
    placeholderData: (typeof keep === "function"
      ? (before: T | undefined) => (before !== undefined && keep(before) ? before : undefined)
      : keep
        ? keepPreviousData
        : undefined) as undefined,
  });
}

/** The same asked for once, by an act; what is known already is not asked for again. */
export function lookUpNow<T>({ what, of, ask }: Pick<LookUp<T>, "what" | "of" | "ask">): Promise<T> {
  const now = desk();
  return queries.fetchQuery({ queryKey: keyOf(what, now, of), queryFn: () => ask(now.takeId), retry: false });
}

/** The steps of the open take, latest first. */
export const useHistory = () =>
  useLookUp({
    what: "history",
    of: [],
    ask: (take_id) => ask(http.GET("/api/takes/{take_id}/history", { params: { path: { take_id } } })),
  });

/** A value once it has rested for so many milliseconds: sliders and the playhead ask when the hand does. */
export function useRested<T>(value: T, rest: number): T {
  const told = JSON.stringify(value);
  const [rested, setRested] = useState(told);
  useEffect(() => {
    const timer = setTimeout(() => setRested(told), rest);
    return () => clearTimeout(timer);
  }, [told, rest]);
  return JSON.parse(rested) as T;
}

interface Looking<T> {
  what: string;
  /** Asks about some frames; null where there is nothing to ask. */
  ask: (takeId: number, frames: { first: number; last: number }) => Promise<T | null>;
  /** What of the store is set by what was found; null where no answer came: the next step asks again. */
  keep: (found: T | null) => Partial<DeskState>;
  /** Besides a step or another take, what makes it look anew. */
  also: (now: DeskState) => readonly unknown[];
  first: number; // milliseconds until the first look, and after a change
  rest: number;
}

/** Keeps something that is known of the take up to date in the store. Returns what stops it. */
export function watch<T>({ what, ask, keep, also, first, rest }: Looking<T>): () => void {
  let asked = 0;
  let owed = false;
  const resting = (s: DeskState) => !s.dragged && !s.playing;
  async function look() {
    const mine = ++asked;
    const now = desk();
    owed = !resting(now);
    if (!now.shot || owed) return;
    const frames = framesNear(now.shot);
    let found: T | null = null;
    try {
      const queryKey = keyOf(what, now, [...also(now), frames]);
      found = await queries.fetchQuery({ queryKey, queryFn: () => ask(now.takeId, frames), retry: false });
    } catch {
      // It is not known now.
    }
    if (mine === asked && now.takeId === desk().takeId) setDesk(keep(found));
  }
  let timer = setTimeout(() => void look(), first);
  const stop = useDesk.subscribe((s, before) => {
    const same = String(keyOf(what, s, also(s))) === String(keyOf(what, before, also(before)));
    if (same && !(owed && resting(s))) return;
    owed = false;
    clearTimeout(timer);
    timer = setTimeout(() => void look(), rest);
  });
  return () => {
    clearTimeout(timer);
    asked++;
    stop();
    setDesk(keep(null));
  };
}

const MOST = 1200; // frames that are looked at

/** The frames of a shot that are looked at: those that are played, and of a long one what is near. */
export function framesNear(shot: Shot): { first: number; last: number } {
  const first = Math.max(shot.play_start, Math.min(desk().frame - MOST / 2, shot.play_end - MOST + 1));
  return { first, last: Math.min(shot.play_end, first + MOST - 1) };
}
