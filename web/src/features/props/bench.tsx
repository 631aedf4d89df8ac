import { belongingRows } from "../../desk/belonging";
import type { Bench } from "../../desk/bench";
import { later } from "../../ui/later";
import { rowsHigh } from "../../ui/SpanRows";

const MOST_ROWS = 8;
const BelongingRows = later(() => import("./BelongingRows").then((m) => m.BelongingRows));

// A can that a hand holds.
export const props: Bench = {
  name: "props",
  label: "Props",
  path: "M7 9h8l1.5 11h-11zM8 9c0-6 6-6 6 0M11 2v2M9 14h4",
  panel: later(() => import("./PropsBench").then((m) => m.PropsBench)),
  rows: ({ cast }) => ({
    high: rowsHigh(Math.min(belongingRows(cast).length, MOST_ROWS)),
    inset: 110,
    draw: (frame) => <BelongingRows cast={cast} frame={frame} />,
  }),
};
