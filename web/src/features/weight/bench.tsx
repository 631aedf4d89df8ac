import type { Bench } from "../../desk/bench";
import { watchFaults } from "../../desk/faults";
import { active } from "../../desk/store";
import { setLooks } from "../../desk/viewing";
import { watchBalance } from "../../desk/weight";
import type { Balance } from "../../model/types";
import { later } from "../../ui/later";
import { rowsHigh } from "../../ui/SpanRows";
import { answered } from "./answered";
import { bearersOf, laidRows } from "./rows";

const WeightRows = later(() => import("./WeightRows").then((m) => m.WeightRows));
const AnswerRows = later(() => import("./AnswerRows").then((m) => m.AnswerRows));
const NONE: Balance[] = [];
const shown = (weight: boolean) => setLooks({ weight, rays: weight, across: weight, fall: weight });

// A pair of scales.
export const weight: Bench = {
  name: "weight",
  label: "Weight",
  path: "M11 3v14M4 6h14M4 6l-2 6h4zM18 6l-2 6h4zM7 19h8",
  panel: later(() => import("./WeightBench").then((m) => m.WeightBench)),
  rows(s) {
    const member = active(s);
    if (!member || member.prop) return null;
    const rows = s.balance?.casting === member.id ? s.balance.rows : NONE;
    const { high } = laidRows(s.weighing.rows, bearersOf(member, rows).length);
    const more = rowsHigh(answered(member).length);
    return {
      high: high + more,
      inset: more ? 76 : 56,
      draw: (frame) => (
        <>
          <WeightRows member={member} frame={frame} />
          {more > 0 && <AnswerRows member={member} room={frame} />}
        </>
      ),
    };
  },
  /** The weight is seen on the stage as long as one works on it. */
  enter() {
    shown(true);
    const stops = [watchBalance(), watchFaults("weight")];
    return () => {
      for (const stop of stops) stop();
      shown(false);
    };
  },
};
