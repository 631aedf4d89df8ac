// The answer to a step: what it changed, and the frames that move by it, where they came along.
import { type Frames, unpack } from "./motion";
import type { StepDone } from "./types";

/** A step that is stored; `frames` are stretches of frames by casting. */
export type Stored = StepDone & { frames?: Map<number, Frames>[] };

/** Reads what server/shots/along.py laid together. */
export function unpackStep(buffer: ArrayBuffer): Stored {
  const head = new DataView(buffer);
  const told = head.getUint32(0, true);
  const done = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, told))) as StepDone;
  const frames: Map<number, Frames>[] = [];
  for (let at = 4 + told; at < buffer.byteLength;) {
    const length = head.getUint32(at, true);
    frames.push(unpack(buffer.slice(at + 4, at + 4 + length)));
    at += 4 + length;
  }
  return { ...done, frames };
}
