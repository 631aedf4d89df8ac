import type { Bench } from "../../desk/bench";
import { watchFaults } from "../../desk/faults";
import { later } from "../../ui/later";

// A swing of marks.
export const arcs: Bench = {
  name: "arcs",
  label: "Arcs",
  path: "M3 15C6 4 16 4 19 15M3 15v.01M6 9.5v.01M11 6.7v.01M16 9.5v.01M19 15v.01M3 19h16",
  panel: later(() => import("./ArcsBench").then((m) => m.ArcsBench)),
  map: 176,
  enter: () => watchFaults("paths"),
};
