// The handle on the selection: three lettered arms to move along, or three lettered rings to turn about.
import * as THREE from "three";
import type { Wish } from "../../desk/dragging";
import type { Axes } from "../../model/types";
import type { Lines } from "./lines";

export type Grip = "x" | "y" | "z" | "xy" | "yz" | "zx" | "free" | "pivot";
const AXIS: Record<"x" | "y" | "z", number> = { x: 0, y: 1, z: 2 };
const SIZE = 88; // pixels from the centre to the end of an arm
const REACH = 8; // pixels from a line at which it is still meant

export interface Stand {
  origin: THREE.Vector3;
  basis: THREE.Quaternion;
  tool: "move" | "turn";
  axes: Axes;
  /** The one place that all turn about; null when each turns about its own. */
  pivot: number[] | null;
  /** The pivot was dropped on the stage, and can be dragged elsewhere. */
  dropped: boolean;
}

export interface Ray {
  camera: THREE.Camera;
  width: number;
  height: number;
  /** The part of the picture that a shot camera films, as shares of its width and height. */
  gate?: { wide: number; high: number };
}

/** Pixels of a point in the world, from the top left of the stage. */
export function toPixels(p: THREE.Vector3, on: Ray, out = new THREE.Vector2()): THREE.Vector2 {
  const n = scratch.copy(p).project(on.camera);
  return out.set(((n.x + 1) / 2) * on.width, ((1 - n.y) / 2) * on.height);
}
const scratch = new THREE.Vector3();

/** Metres that a pixel spans at a place. */
export function pixelSize(at: THREE.Vector3, on: Ray): number {
  const right = new THREE.Vector3().setFromMatrixColumn(on.camera.matrixWorld, 0);
  const a = toPixels(at, on, new THREE.Vector2());
  const b = toPixels(at.clone().add(right), on, new THREE.Vector2());
  return 1 / Math.max(a.distanceTo(b), 1e-6);
}

function direction(stand: Stand, axis: number): THREE.Vector3 {
  return new THREE.Vector3().setComponent(axis, 1).applyQuaternion(stand.basis);
}

/** The drawn pieces: for every grip its segments in the world. */
function pieces(stand: Stand, on: Ray): Map<Grip, THREE.Vector3[]> {
  const unit = SIZE * pixelSize(stand.origin, on);
  const [x, y, z] = [0, 1, 2].map((n) => direction(stand, n));
  const at = (a: THREE.Vector3, s: number, b?: THREE.Vector3, t = 0) => {
    const p = stand.origin.clone().addScaledVector(a, s * unit);
    return b ? p.addScaledVector(b, t * unit) : p;
  };
  const out = new Map<Grip, THREE.Vector3[]>();
  if (stand.tool === "move") {
    for (const [grip, a, b] of [
      ["x", x, y],
      ["y", y, z],
      ["z", z, x],
    ] as const) {
      out.set(grip, [
        at(a, 0.16),
        at(a, 1),
        at(a, 1),
        at(a, 0.88, b, 0.05),
        at(a, 1),
        at(a, 0.88, b, -0.05),
        at(a, 0.88, b, 0.05),
        at(a, 0.88, b, -0.05),
      ]);
    }
    for (const [grip, a, b] of [
      ["xy", x, y],
      ["yz", y, z],
      ["zx", z, x],
    ] as const) {
      out.set(grip, [at(a, 0.3, b, 0.44), at(a, 0.44, b, 0.44), at(a, 0.44, b, 0.44), at(a, 0.44, b, 0.3)]);
    }
    const view = [0, 1].map((n) => new THREE.Vector3().setFromMatrixColumn(on.camera.matrixWorld, n));
    const corner = (s: number, t: number) => at(view[0], s * 0.09, view[1], t * 0.09);
    const square = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
    out.set(
      "free",
      square.flatMap((p, n) => [p, square[(n + 1) % 4]]),
    );
  } else {
    for (const [grip, a, b] of [
      ["x", y, z],
      ["y", z, x],
      ["z", x, y],
    ] as const) {
      const ring: THREE.Vector3[] = [];
      for (let n = 0; n <= 48; n++) {
        const angle = (n / 48) * Math.PI * 2;
        const p = at(a, 0.86 * Math.cos(angle), b, 0.86 * Math.sin(angle));
        if (n) ring.push(p);
        if (n < 48) ring.push(p.clone());
      }
      out.set(grip, ring);
    }
    const view = [0, 1].map((n) => new THREE.Vector3().setFromMatrixColumn(on.camera.matrixWorld, n));
    const ring: THREE.Vector3[] = [];
    for (let n = 0; n < 48; n++)
      for (const m of [n, n + 1]) {
        const angle = (m / 48) * Math.PI * 2;
        ring.push(at(view[0], 1.04 * Math.cos(angle), view[1], 1.04 * Math.sin(angle)));
      }
    out.set("free", ring);
    if (stand.dropped) {
      const corners = [
        [-1, 0],
        [0, -1],
        [1, 0],
        [0, 1],
      ].map(([s, t]) => at(view[0], s * 0.11, view[1], t * 0.11));
      out.set(
        "pivot",
        corners.flatMap((p, n) => [p, corners[(n + 1) % 4], p, stand.origin]),
      );
    }
  }
  return out;
}

export interface HandleInks {
  x: THREE.Color;
  y: THREE.Color;
  z: THREE.Color;
  plain: THREE.Color;
  held: THREE.Color;
}

export function drawHandle(lines: Lines, stand: Stand | null, on: Ray, inks: HandleInks, meant: Grip | null) {
  lines.begin();
  if (stand) {
    for (const [grip, points] of pieces(stand, on)) {
      const colour =
        grip === meant || grip === "pivot" ? inks.held : grip.length === 1 ? inks[grip as "x"] : inks.plain;
      for (let n = 0; n + 1 < points.length; n += 2) {
        const [a, b] = [points[n], points[n + 1]];
        lines.add(a.x, a.y, a.z, b.x, b.y, b.z, colour);
      }
    }
  }
  lines.end();
}

/** Where the letters stand, in pixels. */
export function letters(stand: Stand, on: Ray): Record<"x" | "y" | "z", THREE.Vector2> {
  const unit = SIZE * pixelSize(stand.origin, on);
  const place = (n: number) => {
    // A ring's letter stands where the ring meets the next axis, so that no two meet.
    const way = stand.tool === "move" ? direction(stand, n) : direction(stand, (n + 1) % 3);
    return toPixels(
      stand.origin.clone().addScaledVector(way, unit * (stand.tool === "move" ? 1.14 : 1)),
      on,
      new THREE.Vector2(),
    );
  };
  return { x: place(0), y: place(1), z: place(2) };
}

/** The grip under the pointer, if any; the centre and the planes win over arms they lie on. */
export function gripAt(stand: Stand, on: Ray, pointer: THREE.Vector2): Grip | null {
  let best: [Grip, number] | null = null;
  for (const [grip, points] of pieces(stand, on)) {
    let near = Infinity;
    for (let n = 0; n + 1 < points.length; n += 2)
      near = Math.min(near, toSegment(pointer, points[n], points[n + 1], on));
    if (
      (grip === "pivot" || (grip === "free" && stand.tool === "move")) &&
      toPixels(stand.origin, on).distanceTo(pointer) < 10
    )
      near = 0;
    if (near < REACH && (!best || near < best[1])) best = [grip, near];
  }
  return best?.[0] ?? null;
}

const a2 = new THREE.Vector2();
const b2 = new THREE.Vector2();
export function toSegment(p: THREE.Vector2, a: THREE.Vector3, b: THREE.Vector3, on: Ray): number {
  toPixels(a, on, a2);
  toPixels(b, on, b2);
  const [dx, dy] = [b2.x - a2.x, b2.y - a2.y];
  const t = Math.min(Math.max(((p.x - a2.x) * dx + (p.y - a2.y) * dy) / Math.max(dx * dx + dy * dy, 1e-9), 0), 1);
  return Math.hypot(p.x - a2.x - t * dx, p.y - a2.y - t * dy);
}

/** The ray through a pixel. */
export function casterAt(pointer: THREE.Vector2, on: Ray): THREE.Raycaster {
  const caster = new THREE.Raycaster();
  caster.setFromCamera(
    new THREE.Vector2((pointer.x / on.width) * 2 - 1, 1 - (pointer.y / on.height) * 2),
    on.camera as THREE.PerspectiveCamera,
  );
  return caster;
}
export const rayAt = (pointer: THREE.Vector2, on: Ray) => casterAt(pointer, on).ray;

const eyeOf = (on: Ray) => new THREE.Vector3().setFromMatrixColumn(on.camera.matrixWorld, 2);

/** The place under a pixel on the plane through ``at``: square to ``normal``, or as far away as ``at`` is. */
export function placeBeside(
  at: THREE.Vector3,
  pointer: THREE.Vector2,
  on: Ray,
  normal = eyeOf(on),
): THREE.Vector3 | null {
  return rayAt(pointer, on).intersectPlane(
    new THREE.Plane().setFromNormalAndCoplanarPoint(normal, at),
    new THREE.Vector3(),
  );
}

/** What a hand may move of a place: all of it, along a line, or in a plane square to a vector. */
export interface Free {
  line?: THREE.Vector3;
  normal?: THREE.Vector3;
}

/** A grip taken hold of: turns pointer places into wishes. Fine counts a tenth, snapped goes in whole steps. */
export class Grasp {
  private travelled = new THREE.Vector3();
  private angle = 0;
  private last: THREE.Vector2;

  constructor(
    readonly grip: Grip,
    private readonly stand: Stand,
    private readonly on: Ray,
    start: THREE.Vector2,
    /** Where a place that is moved is drawn to: a guide, or nothing near. */
    private readonly snap: (place: THREE.Vector3, free: Free) => THREE.Vector3 | null = () => null,
  ) {
    this.last = start.clone();
  }

  to(pointer: THREE.Vector2, fine: boolean, snapped: boolean): { wish: Wish; readout: string } {
    const share = fine ? 0.1 : 1;
    const wish = this.stand.tool === "move" ? this.move(pointer, share, snapped) : this.turn(pointer, share, snapped);
    this.last.copy(pointer);
    return wish;
  }

  private move(pointer: THREE.Vector2, share: number, snapped: boolean) {
    if (this.grip.length === 1) {
      const [from, to] = [rayAt(this.last, this.on), rayAt(pointer, this.on)];
      const way = direction(this.stand, AXIS[this.grip as "x"]);
      this.travelled.addScaledVector(
        way,
        (alongLine(to, this.stand.origin, way) - alongLine(from, this.stand.origin, way)) * share,
      );
    } else {
      const other = { xy: 2, yz: 0, zx: 1 }[this.grip as "xy"];
      const normal = other === undefined ? undefined : direction(this.stand, other);
      const [a, b] = [this.last, pointer].map((p) => placeBeside(this.stand.origin, p, this.on, normal));
      if (a && b) this.travelled.addScaledVector(b.sub(a), share);
    }
    const local = this.drawn().applyQuaternion(this.stand.basis.clone().invert());
    if (snapped) local.set(...(local.toArray().map((v) => Math.round(v * 100) / 100) as [number, number, number]));
    // "own" and "parent" are each control's own axes; world and view are the same for all.
    const { axes } = this.stand;
    const wish: Wish = { do: "move", offset: local.toArray(), axes, view: this.stand.basis.toArray() as number[] };
    const shown = (["x", "y", "z"] as const).filter((a) => this.grip === "free" || this.grip.includes(a));
    return { wish, readout: shown.map((a) => `${a} ${signed(local[a], 3)} m`).join("  ") };
  }

  /** How far it has gone, or to the guide that it has come near. */
  private drawn(): THREE.Vector3 {
    const other = { xy: 2, yz: 0, zx: 1 }[this.grip as "xy"];
    const free: Free =
      this.grip.length === 1
        ? { line: direction(this.stand, AXIS[this.grip as "x"]) }
        : other === undefined
          ? {}
          : { normal: direction(this.stand, other) };
    const place = this.stand.origin.clone().add(this.travelled);
    return (this.snap(place, free) ?? place).sub(this.stand.origin);
  }

  private turn(pointer: THREE.Vector2, share: number, snapped: boolean) {
    const eye = eyeOf(this.on);
    const axis = this.grip === "free" ? eye : direction(this.stand, AXIS[this.grip as "x"]);
    const centre = toPixels(this.stand.origin, this.on, new THREE.Vector2());
    if (Math.abs(axis.dot(eye)) > 0.25) {
      // The ring is seen open: follow the pointer round the centre.
      const [a, b] = [this.last, pointer].map((p) => Math.atan2(centre.y - p.y, p.x - centre.x));
      const step = Math.atan2(Math.sin(b - a), Math.cos(b - a));
      this.angle += step * Math.sign(axis.dot(eye)) * share;
    } else {
      // Seen from its edge: a stroke along it winds it up.
      const along = new THREE.Vector3().crossVectors(axis, eye);
      const tip = toPixels(
        this.stand.origin.clone().addScaledVector(along, SIZE * pixelSize(this.stand.origin, this.on)),
        this.on,
        new THREE.Vector2(),
      );
      const way = tip.sub(centre).normalize();
      this.angle += (way.dot(pointer.clone().sub(this.last)) / SIZE) * share;
    }
    const step = Math.PI / 36;
    const angle = snapped ? Math.round(this.angle / step) * step : this.angle;
    const local = axis.clone().applyQuaternion(this.stand.basis.clone().invert());
    const wish: Wish = {
      do: "turn",
      axis: local.toArray(),
      angle,
      axes: this.stand.axes,
      view: this.stand.basis.toArray() as number[],
      pivot: this.stand.pivot,
    };
    const name = this.grip === "free" ? "view" : this.grip;
    return { wish, readout: `${name} ${signed((angle * 180) / Math.PI, 1)}°` };
  }
}

/** How far along a line (from a point on it) the ray passes closest. */
function alongLine(ray: THREE.Ray, origin: THREE.Vector3, way: THREE.Vector3): number {
  const d = ray.direction;
  const w = ray.origin.clone().sub(origin);
  const b = d.dot(way);
  const bottom = 1 - b * b;
  if (bottom < 1e-4) return 0; // looked at along the line: no way along it can be told
  return (w.dot(way) - b * w.dot(d)) / bottom;
}

export const signed = (value: number, digits: number) => (value < 0 ? "−" : "+") + Math.abs(value).toFixed(digits);
