// What is looked up about the take while the hand rests. A late answer never overwrites a newer one.
import { desk, type DeskState, setDesk, useDesk } from "./store";
import type { Shot } from "../model/types";

interface Looking {
  /** What is then known; none if there is nothing to ask. */
  ask: (takeId: number, shot: Shot) => Promise<Partial<DeskState>> | null;
  /** What is known where no answer came; the next step asks again. */
  none: () => Partial<DeskState>;
  /** Besides a step or another take, what makes it look anew. */
  also: (now: DeskState) => unknown;
  first: number; // milliseconds until the first look, and after a change
  rest: number;
}

/** Keeps something that is known of the take up to date. Returns what stops it. */
export function watch({ ask, none, also, first, rest }: Looking): () => void {
  let asked = 0;
  async function look() {
    const mine = ++asked;
    const { takeId, shot, dragged, playing } = desk();
    if (!shot || dragged || playing) return;
    try {
      const found = await ask(takeId, shot);
      if (mine === asked && takeId === desk().takeId) setDesk(found ?? none());
    } catch {
      if (mine === asked) setDesk(none());
    }
  }
  let timer = setTimeout(() => void look(), first);
  const stop = useDesk.subscribe((s, before) => {
    if (s.revision === before.revision && s.takeId === before.takeId && also(s) === also(before)) return;
    clearTimeout(timer);
    timer = setTimeout(() => void look(), rest);
  });
  return () => {
    clearTimeout(timer);
    asked++;
    stop();
  };
}

const MOST = 1200; // frames that are looked at

/** The frames of a shot that are looked at: those that are played, and of a long one what is near. */
export function framesNear(shot: Shot): { first: number; last: number } {
  const first = Math.max(shot.play_start, Math.min(desk().frame - MOST / 2, shot.play_end - MOST + 1));
  return { first, last: Math.min(shot.play_end, first + MOST - 1) };
}
