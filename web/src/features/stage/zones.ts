// What of a face is meant by a press on its skin.
import type * as THREE from "three";
import { Vector3 } from "three";
import { CONTROL } from "../../model/motion";
import { hiddenOf, type Member, toHand } from "../../desk/store";

/** A control of a face, where it stands in the world. */
export interface Spot {
  name: string;
  at: THREE.Vector3;
}

const NEAR = 0.03; // of the height of a figure: what the way of sight passes farther from is not meant
const DEEP = 0.12; // and so far behind the skin at most, which may be pushed out over what moves it
const LEAST = 0.08; // metres

/** The spot that a way of sight passes nearest to, from a little before where it meets the skin on. */
export function spotAlong(ray: THREE.Ray, spots: Spot[], met: number, height: number): string | null {
  const way = new Vector3();
  let best: { name: string; far: number } | null = null;
  for (const { name, at } of spots) {
    const along = way.copy(at).sub(ray.origin).dot(ray.direction);
    if (along < met - NEAR * height || along > met + Math.max(DEEP * height, LEAST)) continue;
    const far = ray.distanceToPoint(at);
    if (far <= NEAR * height && (!best || far < best.far)) best = { name, far };
  }
  return best?.name ?? null;
}

/** Everything of a figure's face that is to hand. */
export function spotsOf(member: Member): Spot[] {
  const hidden = hiddenOf(member);
  return member.rig.controls.flatMap((control, n) =>
    control.part === "face" && control.count > 0 && toHand(member, control, hidden)
      ? [{ name: control.name, at: new Vector3().fromArray(member.pose.controls, n * CONTROL) }]
      : [],
  );
}
