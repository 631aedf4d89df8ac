import type { Bench } from "../../desk/bench";
import { later } from "../../ui/later";

// A sheet that leaves a tray.
export const handoff: Bench = {
  name: "handoff",
  label: "Hand-off",
  path: "M4 13v6h14v-6M11 15V4M7 8l4-4 4 4",
  panel: later(() => import("./HandOff").then((m) => m.HandOff)),
  title: "The hand-off",
  map: 0,
};
