// The benches, from the uppermost down. A new one is a folder of features with a description, and a line here.
import type { Bench } from "../desk/bench";
import { arcs } from "../features/arcs/bench";
import { block } from "../features/block/bench";
import { curves } from "../features/curves/bench";
import { goes } from "../features/go/bench";
import { handoff } from "../features/handoff/bench";
import { plant } from "../features/plant/bench";
import { props } from "../features/props/bench";
import { weight } from "../features/weight/bench";
import { face } from "./face";
import { pose } from "./pose";

export const BENCHES: Bench[] = [pose, block, plant, curves, arcs, weight, goes, face, props, handoff];
