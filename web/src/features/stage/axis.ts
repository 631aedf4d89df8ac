// The axis that the channel pointed at in the graph drives: a line through its control, with a ring for a turn.
import * as THREE from "three";
import { CONTROL } from "../../model/motion";
import { parted } from "../../model/layers";
import { desk, type Member } from "../../desk/store";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { Lines } from "./lines";
import { LAYER } from "./views";

const AXES = { x: new THREE.Vector3(1, 0, 0), y: new THREE.Vector3(0, 1, 0), z: new THREE.Vector3(0, 0, 1) };
type Name = keyof typeof AXES;

/** Where a channel's axis goes: its place and direction, and whether it turns about it. */
export function axisOf(
  member: Member,
  address: string,
): { at: THREE.Vector3; way: THREE.Vector3; turns: boolean } | null {
  const { own } = parted(address);
  const cut = own.lastIndexOf("/");
  const [control, name] = [member.controls.get(own.slice(0, cut)), own.slice(cut + 1)];
  if (!control || !/^[tr][xyz]$/.test(name)) return null;
  const at = member.rig.controls.indexOf(control) * CONTROL;
  const p = member.pose.controls;
  const frame = new THREE.Quaternion().fromArray(p, at + 8);
  const axis = name[1] as Name;
  const turns = name[0] === "r";
  // A turn's axis is carried by the turns before it in the control's order; a place is read in its frame.
  if (turns) {
    frame.multiply(new THREE.Quaternion().fromArray(control.pre));
    for (const before of control.order.toLowerCase()) {
      if (before === axis) break;
      const number = member.channels.get(`${control.name}/r${before}`);
      const angle = number === undefined ? 0 : (desk().dragged?.get(number) ?? member.pose.values[number]);
      frame.multiply(new THREE.Quaternion().setFromAxisAngle(AXES[before as Name], angle));
    }
  }
  return { at: new THREE.Vector3().fromArray(p, at), way: AXES[axis].clone().applyQuaternion(frame), turns };
}

export class AxisMark implements Drawn {
  readonly lines = new Lines(2.6, true, 9, LAYER.marks);
  readonly objects = [this.lines.object, this.lines.thin];
  readonly needs = ["pointed", "activeId"] as const;
  private inks: Record<Name, THREE.Color> | null = null;

  setInks(inks: Inks) {
    const tone = (hex: string) => new THREE.Color(hex);
    this.inks = { x: tone(inks.axisX), y: tone(inks.axisY), z: tone(inks.axisZ) };
  }

  write({ s: { pointed }, member }: Moment) {
    this.lines.begin();
    const found = member && pointed ? axisOf(member, pointed) : null;
    if (found && member && this.inks) {
      const { at, way, turns } = found;
      const tone = this.inks[pointed[pointed.length - 1] as Name];
      const long = 0.34 * member.rig.height;
      const [a, b] = [at.clone().addScaledVector(way, -long), at.clone().addScaledVector(way, long)];
      this.lines.add(a.x, a.y, a.z, b.x, b.y, b.z, tone);
      const side = new THREE.Vector3(way.y, way.z, way.x).cross(way).normalize();
      const up = way.clone().cross(side);
      const ring = 0.1 * member.rig.height;
      if (turns) {
        const on = (angle: number, by = 1) =>
          at
            .clone()
            .addScaledVector(side, by * ring * Math.cos(angle))
            .addScaledVector(up, by * ring * Math.sin(angle));
        const line = (c: THREE.Vector3, d: THREE.Vector3) => this.lines.add(c.x, c.y, c.z, d.x, d.y, d.z, tone);
        for (let n = 0; n < 24; n++) line(on((n * Math.PI) / 12), on(((n + 1) * Math.PI) / 12));
        // Arrows along it, the way that a greater value turns.
        for (const angle of [0, Math.PI]) for (const by of [0.8, 1.2]) line(on(angle), on(angle - 0.28, by));
      } else
        for (const s of [1, -1]) {
          // An arrow at the end that a greater value leads to.
          const c = b
            .clone()
            .addScaledVector(way, -0.05 * long)
            .addScaledVector(side, 0.05 * long * s);
          this.lines.add(b.x, b.y, b.z, c.x, c.y, c.z, tone);
        }
    }
    this.lines.end();
  }

  dispose() {
    this.lines.dispose();
  }
}
