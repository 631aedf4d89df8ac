// Faults of those who play, by group, asked anew while the hand rests after a change.
import { ask, http } from "../api/client";
import { cameraOf } from "./camera";
import { framesNear, watch } from "./looking";
import { desk, setDesk } from "./store";
import type { Alert, FaultGroup } from "../model/types";

const keep = (group: FaultGroup, found: Alert[] | null) => ({ faults: { ...desk().faults, [group]: found } });

/** Keeps the faults of a group up to date. Returns what stops it; then they are known no more. */
export function watchFaults(group: FaultGroup): () => void {
  const stop = watch({
    ask: async (take_id, shot) => {
      const camera = group === "paths" && desk().faultsIn === "camera" ? cameraOf()?.id : undefined;
      const query = { group, ...(camera ? { camera } : {}), ...framesNear(shot) };
      const found = await ask(http.GET("/api/takes/{take_id}/faults", { params: { path: { take_id }, query } }));
      return keep(group, found as Alert[]);
    },
    none: () => keep(group, null),
    also: (s) => [s.cast.length, s.shot?.play_start, s.shot?.play_end, group === "paths" && s.faultsIn].join(),
    first: 200,
    rest: 350,
  });
  return () => {
    stop();
    setDesk(keep(group, null));
  };
}
