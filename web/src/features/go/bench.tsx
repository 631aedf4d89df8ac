import type { Bench } from "../../desk/bench";
import { leaveWay, watchWays } from "../../desk/goings";
import { active } from "../../desk/store";
import { later } from "../../ui/later";
import { ROW, rowsHigh } from "../../ui/SpanRows";
import { PACE_HIGH } from "./quantities";

const GoRows = later(() => import("./GoRows").then((m) => m.GoRows));

// A way round a bend, with two feet beside it.
export const goes: Bench = {
  name: "go",
  label: "Ways",
  path: "M4 19c0-9 13-5 13-14M7.5 14.5l-3-1M12 13l1.5 2.5M14 9.5l3.5 1",
  map: 0,
  panel: later(() => import("./GoBench").then((m) => m.GoBench)),
  rows(s) {
    const member = active(s);
    if (!member || member.prop || !s.ways?.told.ways.length) return null;
    const legs = member.rig.limbs.filter((limb) => limb.kind === "leg").length;
    return {
      high: rowsHigh(1 + legs) + PACE_HIGH + ROW / 3,
      inset: 64,
      draw: (frame) => <GoRows member={member} room={frame} />,
    };
  },
  enter() {
    const stop = watchWays();
    return () => {
      leaveWay();
      stop();
    };
  },
};
