// Marks of plants on the ground: a drawn sole (or palm) where a limb is planted, with its frames.
import * as THREE from "three";
import { plantable, shownPlants, standsAt } from "../../desk/contacts";
import type { Shown } from "../../model/plants";
import { desk, type Member } from "../../desk/store";
import type { End } from "../../model/types";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Ray, toPixels } from "./handle";
import { Lines } from "./lines";
import { inside } from "./outlines";
import { LAYER } from "./views";

interface Mark {
  shown: Shown;
  limb: End;
  /** In the world, point by point. */
  outline: THREE.Vector3[];
  middle: THREE.Vector3;
}

/** A sole between heel and tip: how far along, and how far to the side as a share of its length. */
export const SOLE: [number, number][] = [
  [0, -0.1],
  [0.1, -0.13],
  [0.45, -0.11],
  [0.72, -0.18],
  [0.92, -0.12],
  [1, 0],
  [0.92, 0.12],
  [0.72, 0.18],
  [0.45, 0.11],
  [0.1, 0.13],
  [0, 0.1],
];

export class Marks implements Drawn {
  readonly lines = new Lines(2.2, false, 3, LAYER.marks);
  readonly objects = [this.lines.object, this.lines.thin];
  readonly needs = ["plant", "activeId", "cast", "looks"] as const;
  private marks: Mark[] = [];
  private made: unknown[] = [];
  private tones: Record<string, THREE.Color> = {};
  private readonly tags: HTMLElement[] = [];

  constructor(private readonly box: HTMLElement) {}

  setInks(inks: Inks) {
    const tone = (hex: string) => new THREE.Color(hex);
    this.tones = { L: tone(inks.left), R: tone(inks.right), "": tone(inks.ink), on: tone(inks.blue) };
    for (const tag of this.tags) tag.style.textShadow = `0 0 3px ${inks.sheet}, 0 0 2px ${inks.sheet}`;
    this.made = [];
  }

  write({ s, member: acted, on, marked }: Moment) {
    const member = marked ? acted : undefined;
    const [from, to] = [s.shot?.play_start ?? 0, s.shot?.play_end ?? 0];
    const now = [member, member?.clip, member?.motion.stampOf(s.frame), s.plant, from, to, this.tones];
    if (now.some((v, n) => v !== this.made[n])) {
      this.made = now;
      this.marks = member ? marksOf(member, from, to) : [];
      this.lines.begin();
      for (const { outline, shown, limb } of this.marks) {
        const chosen = s.plant?.control === limb.ik && shown.stored && s.plant.start === shown.start;
        const colour = this.tones[chosen ? "on" : (member!.controls.get(limb.ik)?.side ?? "")];
        outline.forEach((a, n) => {
          const b = outline[(n + 1) % outline.length];
          this.lines.add(a.x, a.y, a.z, b.x, b.y, b.z, colour);
        });
      }
      this.lines.end();
    }
    this.label(member, on);
  }

  private label(member: Member | undefined, on: Ray) {
    while (this.tags.length < this.marks.length) {
      const tag = document.createElement("span");
      tag.dataset.mark = "";
      Object.assign(tag.style, { position: "absolute", left: "0", top: "0", pointerEvents: "none", fontSize: "11px" });
      tag.style.fontWeight = "700";
      this.box.append(tag);
      this.tags.push(tag);
    }
    const p = new THREE.Vector2();
    const { frame } = desk();
    const told: THREE.Vector2[] = [];
    // What holds now is told first; a tag that would lie on another one is left out.
    const away = ({ shown }: Mark) => Math.max(shown.start - frame, frame - shown.end, 0);
    const order = [...this.marks].sort((a, b) => away(a) - away(b));
    this.tags.forEach((tag, n) => {
      const mark = order[n];
      tag.style.display = "none";
      if (!mark) return;
      toPixels(mark.middle, on, p);
      if (told.some((t) => Math.abs(t.x - p.x) < 44 && Math.abs(t.y - p.y) < 14)) return;
      told.push(p.clone());
      tag.style.display = "block";
      tag.textContent = `${member?.controls.get(mark.limb.ik)?.side ?? ""} ${mark.shown.start}–${mark.shown.end}`;
      tag.style.color = `#${this.tones[member?.controls.get(mark.limb.ik)?.side ?? ""].getHexString()}`;
      tag.style.transform = `translate(${p.x - 18}px, ${p.y + 4}px)`;
    });
  }

  /** The plant whose mark is under the pointer. */
  under(pointer: THREE.Vector2, on: Ray): Shown | null {
    for (const { outline, shown } of this.marks) {
      const corners = outline.map((point) => toPixels(point, on, new THREE.Vector2()));
      if (shown.stored && inside(corners, pointer)) return shown;
    }
    return null;
  }

  dispose() {
    this.lines.dispose();
    for (const tag of this.tags) tag.remove();
  }
}

function marksOf(member: Member, from: number, to: number): Mark[] {
  return plantable(member).flatMap((limb) =>
    shownPlants(member, limb)
      .filter((shown) => shown.end >= from && shown.start <= to)
      .map((shown) => markOf(member, limb, shown)),
  );
}

function markOf(member: Member, limb: End, shown: Shown): Mark {
  const at = standsAt(member, limb.ik, shown.start);
  const place = new THREE.Vector3().fromArray(at);
  const turn = new THREE.Quaternion().fromArray(at, 3);
  const scale = at[7];
  const world = (x: number, y: number, z: number) =>
    new THREE.Vector3(x, y, z).multiplyScalar(scale).applyQuaternion(turn).add(place);
  let outline: THREE.Vector3[];
  if (limb.points.heel && limb.points.tip) {
    const [heel, tip] = [limb.points.heel, limb.points.tip].map((p) => new THREE.Vector3().fromArray(p));
    const along = tip.clone().sub(heel);
    const side = new THREE.Vector3(along.z, 0, -along.x);
    outline = SOLE.map(([a, b]) => {
      const p = heel.clone().addScaledVector(along, a).addScaledVector(side, b);
      return world(p.x, p.y + 0.004, p.z);
    });
  } else {
    const [x, y, z] = limb.points.palm ?? [0, 0, 0];
    const lies = limb.kind === "chain"; // a tip is a point: it is seen from above, as soles are
    const size = (lies ? 0.025 : 0.035) * member.rig.height;
    outline = Array.from({ length: 12 }, (_, n) => {
      const angle = (n * Math.PI) / 6;
      const [along, up] = [size * Math.cos(angle), size * Math.sin(angle)];
      return lies ? world(x + along, y, z + up) : world(x + along, y + up, z);
    });
  }
  const middle = outline.reduce((sum, p) => sum.add(p), new THREE.Vector3()).divideScalar(outline.length);
  return { shown, limb, outline, middle };
}
