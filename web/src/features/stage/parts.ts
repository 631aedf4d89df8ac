// The parts by which the body is pulled, drawn over the stage: free, gripped by grade, planted, placed, or in the hand.
import * as THREE from "three";
import { JOINT } from "../../model/motion";
import { gripsOf, handles, partOf, placedParts, plantedParts } from "../../desk/pulling";
import { desk, type Member } from "../../desk/store";
import type { Part } from "../../model/types";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Ray, toPixels } from "./handle";

const SVG = "http://www.w3.org/2000/svg";
const circle = (r: number) => `M${-r} 0a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
const REACH = 12;

/** What a part is drawn as; told by its form as well as by its tone. */
const FORMS = {
  free: { path: circle(4.5), dash: "", thick: 1.6, full: false },
  loose: { path: circle(8), dash: "3 3", thick: 2, full: false },
  firm: { path: circle(8), dash: "", thick: 2.4, full: false },
  fast: { path: circle(5) + circle(9), dash: "", thick: 2.2, full: false },
  planted: { path: `${circle(5)}${circle(9)}M-12 13h24`, dash: "", thick: 2.2, full: false },
  placed: { path: "M-8 -8h16v16h-16z", dash: "", thick: 2.2, full: false },
  pulled: { path: "M0 -11L11 0L0 11L-11 0Z", dash: "", thick: 2, full: true },
};
export type Form = keyof typeof FORMS;

export class Parts implements Drawn {
  readonly objects = [];
  readonly needs = ["selection", "tool", "grips", "few", "activeId", "cast"] as const;
  over: string | null = null;
  private inks!: Inks;
  private readonly marks: SVGPathElement[] = [];
  private shown: { part: Part; at: THREE.Vector2 }[] = [];

  constructor(private readonly group: SVGGElement) {}

  dispose() {
    for (const mark of this.marks) mark.remove();
  }

  setInks(inks: Inks) {
    this.inks = inks;
  }

  write({ s, member: acted, on, posing }: Moment) {
    const member = posing && s.tool === "pull" ? acted : undefined;
    this.shown = member ? handles(member).map((part) => ({ part, at: placeOf(member, part, on) })) : [];
    const parts = this.shown;
    while (this.marks.length < parts.length) {
      const mark = document.createElementNS(SVG, "path");
      mark.setAttribute("stroke-linejoin", "round");
      this.group.append(mark);
      this.marks.push(mark);
    }
    const formOf = member ? forms(member) : () => "free" as Form;
    this.marks.forEach((mark, n) => {
      const shown = parts[n];
      mark.style.display = shown ? "" : "none";
      if (!shown) return;
      const { part, at } = shown;
      const form = formOf(part);
      const { path, dash, thick, full } = FORMS[form];
      const side = member!.controls.get(part.controls[0])?.side ?? "";
      const tone = side === "L" ? this.inks.left : side === "R" ? this.inks.right : this.inks.ink;
      const ink = form === "pulled" ? this.inks.blue : form === "free" ? this.inks.faint : tone;
      mark.dataset.part = part.name;
      mark.dataset.form = form;
      mark.setAttribute("d", path);
      mark.setAttribute("transform", `translate(${at.x.toFixed(1)} ${at.y.toFixed(1)})`);
      mark.setAttribute("stroke", this.over === part.name ? this.inks.red : ink);
      mark.setAttribute("stroke-width", String(thick));
      mark.setAttribute("stroke-dasharray", dash);
      mark.setAttribute("fill", full ? ink : this.inks.sheet);
      mark.setAttribute("fill-opacity", full ? "1" : "0.75");
      mark.setAttribute("fill-rule", "nonzero");
    });
  }

  /** The part under the pointer. */
  under(pointer: THREE.Vector2): Part | null {
    let best: { part: Part; far: number } | null = null;
    for (const { part, at } of this.shown) {
      const far = at.distanceTo(pointer);
      if (far < REACH && (!best || far < best.far)) best = { part, far };
    }
    return best?.part ?? null;
  }
}

/** What each part is drawn as now. */
function forms(member: Member): (part: Part) => Form {
  const { few, selection } = desk();
  const chosen = new Set(selection.map((name) => partOf(member, name)?.name));
  const placed = few ? placedParts(member) : {};
  const [grips, planted] = [gripsOf(member), plantedParts(member)];
  return (part) =>
    chosen.has(part.name)
      ? "pulled"
      : few
        ? part.name in placed
          ? "placed"
          : "free"
        : planted.has(part.name)
          ? "planted"
          : (grips[part.name]?.grade ?? "free");
}

const place = new THREE.Vector3();
const joint = new THREE.Vector3();
const turn = new THREE.Quaternion();

/** Where a part is, in the world. */
export function partPlace({ pose }: Member, part: Part, out = place) {
  const at = part.joint * JOINT;
  turn.fromArray(pose.joints, at + 3);
  out
    .fromArray(part.at)
    .multiplyScalar(pose.joints[at + 7])
    .applyQuaternion(turn);
  return out.add(joint.fromArray(pose.joints, at));
}

const placeOf = (member: Member, part: Part, on: Ray) => toPixels(partPlace(member, part), on, new THREE.Vector2());

/** The part that the selection takes hold of last. */
export function selectedPart(member: Member): Part | undefined {
  const { selection } = desk();
  for (const name of [...selection].reverse()) {
    const part = partOf(member, name);
    if (part) return part;
  }
  return undefined;
}
