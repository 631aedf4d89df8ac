import type { Bench } from "../../desk/bench";
import { showCharts } from "../../desk/viewing";
import { later } from "../../ui/later";

// A curve between two keys, with a handle.
export const curves: Bench = {
  name: "curves",
  label: "Curves",
  path: "M3 18C8 18 9 5 19 5M3 18v.01M19 5v.01M9 5h10M17.5 3.5v3",
  panel: later(() => import("./CurvesBench").then((m) => m.CurvesBench)),
  map: 176,
  enter() {
    showCharts(true);
    return () => showCharts(false);
  },
};
