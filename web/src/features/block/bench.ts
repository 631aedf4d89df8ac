import type { Bench } from "../../desk/bench";
import { later } from "../../ui/later";

// Two poses and a breakdown between.
export const block: Bench = {
  name: "block",
  label: "Block",
  path: "M3.5 5h5v12h-5zM13.5 5h5v12h-5zM11 8v6M3 20h6M14 20h5",
  panel: later(() => import("./Block").then((m) => m.Block)),
};
