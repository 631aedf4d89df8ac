// Cases that the core wrote (tests/model_cases.py): what the page works out has to be what it says.
import { readFileSync } from "node:fs";
import type { Clip } from "../src/model/types";
import type { ClipChange } from "../src/model/taken";
import type { Reshape } from "../src/model/curves";

interface Cases {
  curves: { rows: number[][]; table: number[][]; frames: number[]; values: number[] }[];
  eases: { kind: number; strength: number; times: number[]; values: number[] }[];
  reshaped: {
    address: string;
    rows: number[][];
    frames: number[];
    how: Reshape;
    from: number;
    to: number;
    table: number[][];
  }[];
  clips: {
    clip: Clip;
    frames: number[];
    poses: number[];
    shown: [number, number, boolean][];
    plants: Record<string, [number, number][]>;
  }[];
  addresses: { layer: number; own: string; address: string }[];
  motion: {
    packed: string;
    revision: number;
    first: number;
    figures: { casting: number; joints: number[]; controls: number[]; values: number[] }[];
  };
  changes: { before: Clip; change: ClipChange; after: Clip["curves"] }[];
  step: { packed: string; label: string; stretches: [number, number][] };
}

export const cases = JSON.parse(readFileSync(process.env.HAME_CASES!, "utf8")) as Cases;
