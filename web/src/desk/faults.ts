// Faults of paths and timing, asked anew while the hand rests after a change.
import { ask, http } from "../api/client";
import { cameraOf } from "./camera";
import { desk, setDesk, useDesk } from "./store";
import type { Alert } from "./types";

const MOST = 1200; // frames that are looked at

let asked = 0;

async function look() {
  const mine = ++asked;
  const { shot, takeId, dragged, playing } = desk();
  if (!shot || dragged || playing) return;
  const camera = desk().faultsIn === "camera" ? cameraOf()?.id : undefined;
  const query = {
    ...(camera ? { camera } : {}),
    first: shot.play_start,
    last: Math.min(shot.play_end, shot.play_start + MOST - 1),
  };
  try {
    const found = await ask(http.GET("/api/takes/{take_id}/arcs", { params: { path: { take_id: takeId }, query } }));
    if (mine === asked && takeId === desk().takeId) setDesk({ faults: found as Alert[] });
  } catch {
    if (mine === asked) setDesk({ faults: null }); // the next step asks again
  }
}

/** Keeps the faults up to date. Returns what stops it. */
export function watchFaults(): () => void {
  let timer = setTimeout(() => void look(), 100);
  const stop = useDesk.subscribe((s, before) => {
    if (
      s.revision === before.revision &&
      s.takeId === before.takeId &&
      s.shot === before.shot &&
      s.faultsIn === before.faultsIn
    )
      return;
    clearTimeout(timer);
    timer = setTimeout(() => void look(), 300);
  });
  return () => {
    clearTimeout(timer);
    asked++;
    stop();
    setDesk({ faults: null });
  };
}
