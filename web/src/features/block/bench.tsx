import type { Bench } from "../../desk/bench";
import { active } from "../../desk/store";
import { livingsOf } from "../../model/types";
import { later } from "../../ui/later";
import { rowsHigh } from "../../ui/SpanRows";

const LivingRows = later(() => import("./LivingRows").then((m) => m.LivingRows));

// Two poses and a breakdown between.
export const block: Bench = {
  name: "block",
  label: "Block",
  path: "M3.5 5h5v12h-5zM13.5 5h5v12h-5zM11 8v6M3 20h6M14 20h5",
  panel: later(() => import("./Block").then((m) => m.Block)),
  rows: (s) => {
    const member = active(s);
    if (!member || !livingsOf(member.clip).length) return null;
    return { high: rowsHigh(1), inset: 76, draw: (frame) => <LivingRows member={member} frame={frame} /> };
  },
};
