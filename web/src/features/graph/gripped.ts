// What becomes of chosen keys as a grip of their box is dragged: scaled, sheared or bent.
import { type Reshape } from "../../model/curves";
import type { AnyEdit } from "../../model/types";
import type { GripName, Region } from "./region";
import type { Shown } from "./shown";
import { frameAt, heightAt, type Place, undrawn } from "./view";

/** About what a region is scaled: the side across, the key clicked last, the playhead and zero, its middle. */
export type About = "across" | "key" | "playhead" | "middle";
type Spot = readonly [number, number];

interface Gripped {
  name: GripName;
  /** Where the grip was taken, and where the pointer is, in pixels. */
  x: number;
  y: number;
  to: { x: number; y: number };
  place: Place;
  region: Region;
  frames: number[];
  /** In whole steps of a quarter. */
  whole: boolean;
  by: About;
  about: { playhead: Spot; key: Spot | null };
}

const AROUND = 9;

/** How the chosen keys are reshaped, for each of their curves, and that in words. */
export function gripped({ name, x, y, to, place, region, frames, whole, by, about }: Gripped): {
  how: (chosen: Shown[]) => Partial<Reshape>;
  readout: string;
} {
  const each = (chosen: Shown[], value: (curve: Shown) => number) =>
    Object.fromEntries(chosen.map((curve) => [curve.address, value(curve)]));
  const [first, last] = [Math.min(...frames), Math.max(...frames)];
  const high = (-(to.y - y) / place.height) * (place.view.high - place.view.low);
  if (name === "bend")
    return {
      how: (chosen) => ({ bend: each(chosen, (c) => high / c.scale) }),
      readout: `bent by ${high.toFixed(1)}`,
    };
  if (name === "shear") {
    const slope = last > first ? high / (last - first) : 0;
    return {
      how: (chosen) => ({ about_frame: first, shear: each(chosen, (c) => slope / c.scale) }),
      readout: `sheared by ${high.toFixed(1)}`,
    };
  }
  const [gx, gx2, gy, gy2] = [region.x + AROUND, region.x2 - AROUND, region.y + AROUND, region.y2 - AROUND];
  const middle: Spot = [(gx + gx2) / 2, (gy + gy2) / 2];
  const across: Spot = [name.includes("left") ? gx2 : gx, name.includes("top") ? gy2 : gy];
  const [ax, ay] =
    by === "key" && about.key ? about.key : by === "middle" ? middle : by === "playhead" ? about.playhead : across;
  const share = (now: number, was: number, from: number) =>
    Math.abs(was - from) < 2 ? 1 : (now - from) / (was - from);
  const sideways = /left|right/.test(name) && gx2 - gx > 2;
  const upright = /top|bottom/.test(name) && gy2 - gy > 2;
  let [time, value] = [sideways ? share(to.x, x, ax) : 1, upright ? share(to.y, y, ay) : 1];
  if (whole) [time, value] = [Math.round(time * 4) / 4, Math.round(value * 4) / 4];
  const height = heightAt(place, ay);
  return {
    how: (chosen) => ({
      about_frame: Math.round(frameAt(place, ax)),
      time,
      about: each(chosen, (c) => undrawn(c, height)),
      value,
    }),
    readout: `${sideways ? `time ×${time.toFixed(2)} ` : ""}${upright ? `value ×${value.toFixed(2)}` : ""}`,
  };
}

/** The keys that are chosen once those of an edit have been reshaped. */
export function keysAfter({ keys, time, about_frame, by_frames }: Extract<AnyEdit, { kind: "reshape" }>) {
  const moved = (f: number) => Math.floor(about_frame + time * (f - about_frame) + by_frames + 0.5);
  return Object.fromEntries(
    Object.entries(keys).map(([address, frames]) => [address, [...new Set(frames.map(moved))]]),
  );
}
