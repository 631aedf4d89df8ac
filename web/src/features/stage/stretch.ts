// The handle that makes a limb, the torso or the neck longer and shorter: an arrow at its end, dragged along it.
import * as THREE from "three";
import { partOf } from "../../desk/pulling";
import { desk, type Member, valueOf } from "../../desk/store";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { casterAt, type Ray, toPixels } from "./handle";
import { partPlace } from "./parts";

const OUT = 26; // pixels from the end that it stretches
const REACH = 11;

export interface Stretching {
  address: string;
  control: string;
  label: string;
  /** From where to where it reaches, in the world, and how long it is now. */
  from: THREE.Vector3;
  to: THREE.Vector3;
  value: number;
}

/** What the last selected control can stretch; null where nothing is. */
export function stretchingOf(member: Member): Stretching | null {
  const { selection } = desk();
  const control = member.controls.get(selection[selection.length - 1] ?? "");
  if (!control) return null;
  const [whole, first, last] = control.limb
    ? [
        control.limb,
        `${control.limb}.upper`,
        partOf(member, member.rig.limbs.find((l) => l.name === control.limb)!.ik)?.name,
      ]
    : control.name.startsWith("spine") || control.name === "chest"
      ? ["spine", "spine", "chest"]
      : control.name.startsWith("neck")
        ? ["neck", "neck", "head"]
        : ["", "", ""];
  const address = `${whole}/stretch`;
  const channel = member.channels.get(address);
  const [a, b] = [first, last].map((name) => member.rig.parts.find((part) => part.name === name));
  if (channel === undefined || !a || !b) return null;
  const from = partPlace(member, a, new THREE.Vector3());
  const to = partPlace(member, b, new THREE.Vector3());
  const label = member.rig.channels[channel].label;
  return { address, control: whole, label, from, to, value: valueOf(member, channel) };
}

export class StretchMark implements Drawn {
  readonly objects = [];
  readonly needs = ["selection", "tool"] as const;
  private readonly mark = document.createElementNS("http://www.w3.org/2000/svg", "path");
  private at: THREE.Vector2 | null = null;
  private inks!: Inks;

  constructor(group: SVGGElement) {
    this.mark.dataset.stretch = "";
    this.mark.setAttribute("d", "M-7 -6L0 -12L7 -6M0 -12V6M-7 6H7");
    this.mark.setAttribute("fill", "none");
    this.mark.setAttribute("stroke-linejoin", "round");
    group.append(this.mark);
  }

  dispose() {
    this.mark.remove();
  }

  setInks(inks: Inks) {
    this.inks = inks;
  }

  write({ s, member, on, posing }: Moment) {
    const stretching = posing && member && s.tool !== "pull" ? stretchingOf(member) : null;
    this.mark.style.display = stretching ? "" : "none";
    this.at = null;
    if (!stretching) return;
    const [a, b] = [stretching.from, stretching.to].map((p) => toPixels(p, on, new THREE.Vector2()));
    const way = b.clone().sub(a);
    if (way.length() < 8) way.set(0, -1); // seen along its length
    this.at = b.addScaledVector(way.normalize(), OUT);
    const turn = (Math.atan2(way.x, -way.y) * 180) / Math.PI;
    this.mark.setAttribute("transform", `translate(${this.at.x.toFixed(1)} ${this.at.y.toFixed(1)}) rotate(${turn})`);
    this.mark.setAttribute("stroke", this.inks.axisX);
    this.mark.setAttribute("stroke-width", "2.4");
  }

  under = (pointer: THREE.Vector2) => this.distance(pointer) < REACH;

  /** How many pixels it is from the pointer. */
  distance = (pointer: THREE.Vector2) => this.at?.distanceTo(pointer) ?? Infinity;
}

/** How long it is wanted while its handle is at a pixel, having been taken hold of at another. */
export function stretchedTo(
  s: Stretching,
  held: THREE.Vector2,
  pointer: THREE.Vector2,
  on: Ray,
  fine: boolean,
): number {
  const way = s.to.clone().sub(s.from);
  const long = Math.max(way.length(), 1e-6);
  way.divideScalar(long);
  const along = (p: THREE.Vector2) => {
    const { origin, direction } = casterAt(p, on).ray;
    const w = origin.clone().sub(s.from);
    const b = direction.dot(way);
    const bottom = 1 - b * b;
    return bottom < 1e-4 ? 0 : (w.dot(way) - b * w.dot(direction)) / bottom;
  };
  const grown = (along(pointer) - along(held)) * (fine ? 0.1 : 1);
  return Math.min(Math.max(s.value * (1 + grown / long), 0.2), 5);
}
