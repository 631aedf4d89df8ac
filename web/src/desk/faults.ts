// Faults of those who play, by group, asked anew while the hand rests after a change.
import { ask, http } from "../api/client";
import { cameraOf } from "./camera";
import { watch } from "./looking";
import { desk } from "./store";
import type { Alert, FaultGroup } from "../model/types";

/** Keeps the faults of a group up to date. Returns what stops it; then they are known no more. */
export const watchFaults = (group: FaultGroup) =>
  watch<Alert[]>({
    what: `faults of ${group}`,
    ask: (take_id, frames) => {
      const camera = group === "paths" && desk().faultsIn === "camera" ? cameraOf()?.id : undefined;
      const limits = group === "paths" ? {} : desk().weighing.limits;
      const query = { group, ...(camera ? { camera } : {}), ...limits, ...frames };
      return ask(http.GET("/api/takes/{take_id}/faults", { params: { path: { take_id }, query } })) as Promise<Alert[]>;
    },
    keep: (found) => ({ faults: { ...desk().faults, [group]: found } }),
    also: (s) => [
      s.cast.length,
      s.shot?.play_start,
      s.shot?.play_end,
      group === "paths" && s.faultsIn,
      group === "weight" && s.shot?.gravity,
      group !== "paths" && JSON.stringify(s.weighing.limits),
    ],
    first: 200,
    rest: 350,
  });
