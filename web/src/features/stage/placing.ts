// Where the cast stands, for framing it.
import * as THREE from "three";
import { CONTROL } from "../../model/motion";
import { CAMERA_LENS, cameraNow, cameraOf } from "../../desk/camera";
import { desk, type Member } from "../../desk/store";
import type { View } from "./views";

/** So far, as a share of the height of the figure, its body may rise before the middle rises with it. */
const HOP = 0.06;

/** The middle of one of the cast as it stands now. */
export function middleOf(member: Member): THREE.Vector3 {
  const body = member.rig.controls.findIndex((c) => c.kind === "body");
  const at = Math.max(body, 0) * CONTROL;
  const p = member.pose.controls;
  const height = member.rig.height * (p[at + 7] || 1);
  const middle = height * 0.53 + p[1];
  // Its height is the ground's under it, so that a body that sinks or hops is seen to; one that climbs is gone after.
  const climbed = Math.max(p[at + 1] - middle - height * HOP, 0);
  return new THREE.Vector3(p[at], middle + climbed, p[at + 2]);
}

/** How far one of the cast reaches from its middle, metres: most are tall, some are broad. */
export function reachOf(member: Member): number {
  const places = member.rig.rest_places;
  const broad = Math.max(...[0, 2].map((n) => Math.max(...places.map((p) => Math.abs(p[n])))));
  return Math.max(member.rig.height * 0.56, broad * 1.02);
}

/** A sphere about all of some of the cast. */
export function sphereOf(cast: Member[]): THREE.Sphere {
  // A camera films the others: it stands far off, and is no part of what there is to see.
  const seen = cast.filter((member) => !member.channels.has(CAMERA_LENS));
  const spheres = (seen.length ? seen : cast).map((member) => new THREE.Sphere(middleOf(member), reachOf(member)));
  return spheres.slice(1).reduce((all, one) => all.union(one), spheres[0] ?? new THREE.Sphere(new THREE.Vector3(), 1));
}

/** The shot camera, if the eye is where it is: it would cover the picture and take what is clicked there. */
export function cameraBefore(view: View): Member | undefined {
  const camera = cameraOf();
  if (!camera) return undefined;
  const place = new THREE.Vector3().fromArray(cameraNow(camera).spot);
  const { center, radius } = sphereOf(desk().cast);
  return view.coveredBy(place, center, radius) ? camera : undefined;
}
