import type { Bench } from "../../desk/bench";
import { plantable } from "../../desk/contacts";
import { watchWays } from "../../desk/goings";
import { active } from "../../desk/store";
import { later } from "../../ui/later";
import { rowsHigh } from "../../ui/SpanRows";

const PlantRows = later(() => import("./PlantRows").then((m) => m.PlantRows));

// A sole on the ground.
export const plant: Bench = {
  name: "plant",
  label: "Plant",
  path: "M8 2.5v8c0 2 1 3 3 3.4l6 1.1v2H5.5v-3M2 20h18M5 3h6",
  panel: later(() => import("./PlantBench").then((m) => m.PlantBench)),
  rows(s) {
    const member = active(s);
    return (
      member && {
        high: rowsHigh(plantable(member).length),
        inset: 44,
        draw: (frame) => <PlantRows member={member} frame={frame} />,
      }
    );
  },
  enter: watchWays,
};
