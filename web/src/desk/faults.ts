// Faults of paths and timing, asked anew while the hand rests after a change.
import { ask, http } from "../api/client";
import { cameraOf } from "./camera";
import { framesNear, watch } from "./looking";
import { desk, setDesk } from "./store";
import type { Alert } from "./types";

/** Keeps the faults up to date. Returns what stops it. */
export function watchFaults(): () => void {
  const stop = watch({
    ask: async (take_id, shot) => {
      const camera = desk().faultsIn === "camera" ? cameraOf()?.id : undefined;
      const query = { ...(camera ? { camera } : {}), ...framesNear(shot) };
      const found = await ask(http.GET("/api/takes/{take_id}/arcs", { params: { path: { take_id }, query } }));
      return { faults: found as Alert[] };
    },
    none: { faults: null },
    also: (s) => [s.shot?.play_start, s.shot?.play_end, s.faultsIn].join(),
    first: 100,
    rest: 300,
  });
  return () => {
    stop();
    setDesk({ faults: null });
  };
}
