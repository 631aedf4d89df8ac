// Where the cast stands, for framing it.
import * as THREE from "three";
import { CONTROL } from "../../desk/motion";
import type { Member } from "../../desk/store";

/** The middle of one of the cast as it stands now. */
export function middleOf(member: Member): THREE.Vector3 {
  const body = member.rig.controls.findIndex((c) => c.kind === "body");
  const at = Math.max(body, 0) * CONTROL;
  const p = member.pose.controls;
  // Its height is the ground's under it, so that a body that sinks is seen to sink.
  return new THREE.Vector3(p[at], member.rig.height * 0.53 * (p[at + 7] || 1) + p[1], p[at + 2]);
}

/** A sphere about all of some of the cast. */
export function sphereOf(cast: Member[]): THREE.Sphere {
  const spheres = cast.map((member) => new THREE.Sphere(middleOf(member), member.rig.height * 0.56));
  return spheres.slice(1).reduce((all, one) => all.union(one), spheres[0] ?? new THREE.Sphere(new THREE.Vector3(), 1));
}
