import type { Bench } from "../../desk/bench";
import { active } from "../../desk/store";
import { later } from "../../ui/later";
import { rowsHigh } from "../../ui/SpanRows";
import { rowed } from "./rowed";

const LifeRows = later(() => import("./LifeRows").then((m) => m.LifeRows));

// Two poses and a breakdown between.
export const block: Bench = {
  name: "block",
  label: "Block",
  path: "M3.5 5h5v12h-5zM13.5 5h5v12h-5zM11 8v6M3 20h6M14 20h5",
  panel: later(() => import("./Block").then((m) => m.Block)),
  rows: (s) => {
    const member = active(s);
    const count = member ? rowed(member).length : 0;
    if (!member || !count) return null;
    return { high: rowsHigh(count), inset: 76, draw: (room) => <LifeRows member={member} room={room} /> };
  },
};
