import type { Bench } from "../../desk/bench";
import { active } from "../../desk/store";
import { setLooks } from "../../desk/viewing";
import { watchBalance } from "../../desk/weight";
import { later } from "../../ui/later";
import { BALANCE_HIGH } from "./high";

const BalanceRow = later(() => import("./BalanceRow").then((m) => m.BalanceRow));
const shown = (weight: boolean) => setLooks({ weight, rays: weight, across: weight });

// A pair of scales.
export const weight: Bench = {
  name: "weight",
  label: "Weight",
  path: "M11 3v14M4 6h14M4 6l-2 6h4zM18 6l-2 6h4zM7 19h8",
  panel: later(() => import("./WeightBench").then((m) => m.WeightBench)),
  rows(s) {
    const member = active(s);
    if (!member || member.prop) return null;
    return { high: BALANCE_HIGH, inset: 56, draw: (frame) => <BalanceRow member={member} frame={frame} /> };
  },
  /** The weight is seen on the stage as long as one works on it. */
  enter() {
    shown(true);
    const stop = watchBalance();
    return () => {
      stop();
      shown(false);
    };
  },
};
