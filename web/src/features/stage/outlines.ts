// The outlines of the controls to hand: drawn from the pose, and what of them lies under the pointer or in an area.
import * as THREE from "three";
import { CONTROL } from "../../model/motion";
import { joined, type Member, hiddenOf, toHand } from "../../desk/store";
import type { Control } from "../../model/types";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Ray, toPixels, toSegment } from "./handle";
import { Lines } from "./lines";
import { outlineOf } from "./shapes";
import { LAYER } from "./views";

interface Outline {
  control: Control;
  from: number;
  to: number;
}

export class Outlines implements Drawn {
  readonly lines = new Lines(1.8, true, 5, LAYER.outlines);
  readonly objects = [this.lines.object, this.lines.thin];
  readonly needs = ["selection", "company", "looks", "tool", "activeId", "along", "playing", "view"] as const;
  /** The control that the pointer is over. */
  over: string | null = null;
  private drawn: Outline[] = [];
  private world: Float32Array = new Float32Array(0);
  private colours = new Map<string, THREE.Color>();

  dispose() {
    this.lines.dispose();
  }

  setInks(inks: Inks) {
    const inkOf = { "": inks.ink, L: inks.left, R: inks.right, selected: inks.blue, over: inks.red };
    this.colours = new Map(Object.entries(inkOf).map(([name, hex]) => [name, new THREE.Color(hex)]));
  }

  write({ s, member, posing, view }: Moment) {
    this.lines.begin();
    this.drawn = [];
    // The picture that is filmed is to be seen: of all outlines only those of what is selected lie over it.
    const onlySelected = view === "camera";
    let used = 0;
    if (posing && s.tool !== "pull")
      for (const other of joined(s)) used = this.beside(other, s.company[other.id], used);
    if (member && posing && s.tool !== "pull") {
      const chosen = new Set(s.selection);
      const hidden = hiddenOf(member, s);
      member.rig.controls.forEach((control, k) => {
        if (control.shape.kind === "none") return;
        if (!chosen.has(control.name) && (onlySelected || !toHand(member, control, hidden))) return;
        const from = used;
        used = this.place(member, control, k, used);
        const along = s.along?.casting === member.id && s.along.frame === s.frame && control.name in s.along.places;
        const tone = chosen.has(control.name)
          ? "selected"
          : along || this.over === control.name
            ? "over"
            : control.side;
        this.stroke(from, used, tone);
        this.drawn.push({ control, from, to: used });
      });
    }
    this.lines.end();
  }

  /** What is selected of one that is meant as well, or the ring at its feet where it is meant as a whole. */
  private beside(member: Member, selected: string[], used: number): number {
    member.rig.controls.forEach((control, k) => {
      const mine = selected.length ? selected.includes(control.name) : !control.parent;
      if (control.shape.kind === "none" || !mine) return;
      const from = used;
      used = this.place(member, control, k, used);
      this.stroke(from, used, "selected");
    });
    return used;
  }

  /** Writes a control's outline from a place on; returns where it ends. */
  private place(member: Member, control: Control, number: number, used: number): number {
    const points = outlineOf(control.shape.kind);
    if (this.world.length < used + points.length) {
      const more = new Float32Array(Math.max((used + points.length) * 2, 4096));
      more.set(this.world);
      this.world = more;
    }
    return place(points, control, member.pose.controls, number * CONTROL, this.world, used);
  }

  private stroke(from: number, to: number, tone: string) {
    const [w, colour] = [this.world, this.colours.get(tone)!];
    for (let n = from; n < to; n += 6) this.lines.add(w[n], w[n + 1], w[n + 2], w[n + 3], w[n + 4], w[n + 5], colour);
  }

  /** The outline under the pointer, and how far away it is. */
  under(pointer: THREE.Vector2, on: Ray): { name: string; distance: number } | null {
    let best: { name: string; near: number; distance: number } | null = null;
    const eye = on.camera.position;
    const [a, b] = [new THREE.Vector3(), new THREE.Vector3()];
    for (const { control, from, to } of this.drawn) {
      for (let n = from; n < to; n += 6) {
        a.fromArray(this.world, n);
        b.fromArray(this.world, n + 3);
        const near = toSegment(pointer, a, b, on);
        if (near < 6 && (!best || near < best.near - 0.5))
          best = { name: control.name, near, distance: a.distanceTo(eye) };
      }
    }
    return best;
  }

  /** Controls whose place lies inside an area of pixels. */
  within(area: THREE.Vector2[], member: Member, on: Ray): string[] {
    const centre = new THREE.Vector3();
    return this.drawn
      .filter(({ control, from, to }) => {
        if (control.kind === "master") return inside(area, toPixels(centre.fromArray(member.pose.controls, 0), on));
        centre.set(0, 0, 0);
        for (let n = from; n < to; n += 3) centre.add(new THREE.Vector3().fromArray(this.world, n));
        return inside(area, toPixels(centre.divideScalar((to - from) / 3), on));
      })
      .map(({ control }) => control.name);
  }
}

export function inside(area: THREE.Vector2[], p: THREE.Vector2): boolean {
  let odd = false;
  for (let i = 0, j = area.length - 1; i < area.length; j = i++) {
    const [a, b] = [area[i], area[j]];
    if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) odd = !odd;
  }
  return odd;
}

const q = new THREE.Quaternion();
const v = new THREE.Vector3();

/** Writes a control's outline at its place into `out` from `to` on; returns where it ends. */
function place(points: Float32Array, control: Control, pose: Float32Array, at: number, out: Float32Array, to: number) {
  q.set(pose[at + 3], pose[at + 4], pose[at + 5], pose[at + 6]);
  const scale = pose[at + 7];
  const { size, offset } = control.shape;
  for (let n = 0; n < points.length; n += 3) {
    v.set(points[n] * size + offset[0], points[n + 1] * size + offset[1], points[n + 2] * size + offset[2]);
    v.multiplyScalar(scale).applyQuaternion(q);
    out[to++] = v.x + pose[at];
    out[to++] = v.y + pose[at + 1];
    out[to++] = v.z + pose[at + 2];
  }
  return to;
}
