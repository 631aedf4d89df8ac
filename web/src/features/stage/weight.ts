// What is drawn of a figure's weight and direction: its mass over what bears it, rays of face and gaze, lines across
// chest and hips.
import * as THREE from "three";
import { desk, type Member } from "../../desk/store";
import { balanceNow, chestOf, eyesOf, faceOf, hipsOf, turned } from "../../desk/weight";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { Lines } from "./lines";
import { LAYER } from "./views";

const UP = 0.006; // metres above the ground, so that the lines are not in it

export class Weight implements Drawn {
  readonly lines = new Lines(2.2, true, 8, LAYER.marks);
  readonly objects = [this.lines.object, this.lines.thin];
  readonly needs = ["looks", "activeId", "balance", "frame"] as const;
  private tones: Record<"inside" | "outside" | "ray" | "chest" | "hips" | "way" | "pressure", THREE.Color> | null =
    null;

  setInks(inks: Inks) {
    const tone = (hex: string) => new THREE.Color(hex);
    this.tones = {
      inside: tone(inks.blue),
      outside: tone(inks.red),
      ray: tone(inks.faint),
      chest: tone(inks.axisX),
      hips: tone(inks.axisY),
      way: tone(inks.axisZ),
      pressure: tone(inks.axisX),
    };
  }

  write({ s: { looks }, member }: Moment) {
    this.lines.begin();
    if (member && this.tones && !member.prop) {
      if (looks.fall) this.fall(member);
      if (looks.weight) this.mass(member);
      if (looks.rays) this.rays(member);
      if (looks.across) this.across(member);
    }
    this.lines.end();
  }

  private mass(member: Member) {
    const balance = balanceNow();
    if (!balance) return;
    const out = balance.margin !== null && balance.margin < 0;
    const tone = this.tones![out ? "outside" : "inside"];
    const [x, y, z] = balance.centre;
    const ground = balance.level + UP;
    const size = 0.028 * member.rig.height;
    // The centre of mass: a ball of three rings; its plumb line, and a cross where that meets the ground.
    for (const plane of [0, 1, 2]) this.ring(plane, x, y, z, size, tone);
    this.lines.add(x, y, z, x, ground, z, tone);
    this.lines.add(x - 2 * size, ground, z, x + 2 * size, ground, z, tone);
    this.lines.add(x, ground, z - 2 * size, x, ground, z + 2 * size, tone);
    balance.area.forEach(([ax, az], n) => {
      const [bx, bz] = balance.area[(n + 1) % balance.area.length];
      this.lines.add(ax, ground, az, bx, ground, bz, tone);
    });
  }

  /** The way of the mass with a mark on each frame, and where the ground is asked to bear it at the playhead. */
  private fall(member: Member) {
    const { balance, frame, dragged } = desk();
    if (balance?.casting !== member.id || dragged) return;
    const { way, pressure, outside } = this.tones!;
    const mark = 0.004 * member.rig.height;
    balance.rows.forEach(({ centre: [x, y, z] }, n) => {
      const next = balance.rows[n + 1]?.centre;
      if (next) this.lines.add(x, y, z, next[0], next[1], next[2], way);
      const size = (balance.first + n) % 5 ? mark : 2 * mark;
      this.lines.add(x, y - size, z, x, y + size, z, way);
    });
    const row = balance.rows[frame - balance.first];
    const at = row?.moving?.pressure;
    if (!at) return;
    // A lozenge on the ground: red where what bears it does not reach.
    const tone = (row.moving?.margin ?? 0) < 0 ? outside : pressure;
    const r = 0.03 * member.rig.height;
    const corners = [0, 1, 2, 3].map((n) => [at[0] + r * (n % 2 ? 0 : 1 - n), at[1] + r * (n % 2 ? 2 - n : 0)]);
    const up = row.level + UP;
    corners.forEach(([ax, az], n) => {
      const [bx, bz] = corners[(n + 1) % 4];
      this.lines.add(ax, up, az, bx, up, bz, tone);
      this.lines.add(ax, up, az, at[0], up, at[1], tone);
    });
    this.lines.add(at[0], up, at[1], row.centre[0], row.centre[1], row.centre[2], tone);
  }

  private ring(plane: number, x: number, y: number, z: number, r: number, tone: THREE.Color) {
    const at = (n: number) => {
      const [c, s] = [r * Math.cos((n * Math.PI) / 8), r * Math.sin((n * Math.PI) / 8)];
      return plane === 0 ? [x, y + c, z + s] : plane === 1 ? [x + c, y, z + s] : [x + c, y + s, z];
    };
    for (let n = 0; n < 16; n++) {
      const [a, b] = [at(n), at(n + 1)];
      this.lines.add(a[0], a[1], a[2], b[0], b[1], b[2], tone);
    }
  }

  private rays(member: Member) {
    const long = 0.75 * member.rig.height;
    const face = faceOf(member);
    if (face) this.dashed(face, long, 0.07 * member.rig.height);
    for (const eye of eyesOf(member)) this.ray(eye, long);
  }

  private ray(at: Float32Array, long: number, lift = 0) {
    const [dx, dy, dz] = turned(at, [0, 0, 1]);
    const [ux, uy, uz] = turned(at, [0, lift, 0]);
    const [x, y, z] = [at[0] + ux, at[1] + uy, at[2] + uz];
    this.lines.add(x, y, z, x + dx * long, y + dy * long, z + dz * long, this.tones!.ray);
  }

  /** The face's ray is dashed, so that it is told from the eyes'. */
  private dashed(at: Float32Array, long: number, lift: number) {
    const [dx, dy, dz] = turned(at, [0, 0, 1]);
    const [ux, uy, uz] = turned(at, [0, lift, 0]);
    for (let n = 0; n < 9; n++) {
      const [a, b] = [(long * (n + 0.2)) / 9, (long * (n + 0.8)) / 9];
      this.lines.add(
        at[0] + ux + dx * a,
        at[1] + uy + dy * a,
        at[2] + uz + dz * a,
        at[0] + ux + dx * b,
        at[1] + uy + dy * b,
        at[2] + uz + dz * b,
        this.tones!.ray,
      );
    }
  }

  private across(member: Member) {
    const half = 0.17 * member.rig.height;
    for (const [at, tone] of [
      [chestOf(member), this.tones!.chest],
      [hipsOf(member), this.tones!.hips],
    ] as const) {
      if (!at) continue;
      const [dx, dy, dz] = turned(at, [1, 0, 0]);
      const [fx, fy, fz] = turned(at, [0, 0, 1]);
      const [x, y, z] = [at[0], at[1], at[2]];
      this.lines.add(x - dx * half, y - dy * half, z - dz * half, x + dx * half, y + dy * half, z + dz * half, tone);
      // A short stroke ahead tells front from back.
      this.lines.add(x, y, z, x + fx * half * 0.5, y + fy * half * 0.5, z + fz * half * 0.5, tone);
    }
  }

  dispose() {
    this.lines.dispose();
  }
}
