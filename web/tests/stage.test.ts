import * as THREE from "three";
import { expect, test } from "vitest";
import { LAYER, View } from "../src/features/stage/views";
import { spotAlong } from "../src/features/stage/zones";
import { Pose, standsAlike } from "../src/model/motion";

const at = (x: number, y: number, z: number) => new THREE.Vector3(x, y, z);
const centre = at(0, 1, 0);

test("a camera is in the way of the eye that stands where it is, and of no other", () => {
  const view = new View("quarter", [LAYER.marks]);
  view.frame(centre, 1.2);
  expect(view.coveredBy(view.camera.position.clone(), centre, 1.2)).toBe(true);
  expect(view.coveredBy(view.camera.position.clone().add(at(0.3, 0, 0)), centre, 1.2)).toBe(true);
  expect(view.coveredBy(view.camera.position.clone().lerp(centre, 0.4), centre, 1.2)).toBe(false);
});

test("through the shot camera's own lens it is inside of what it is", () => {
  const view = new View("camera", []);
  view.lookThrough([2, 1.4, 3, 0, 0, 0, 1], 35, 24, 13.5);
  expect(view.coveredBy(at(2, 1.4, 3), centre, 1.2)).toBe(true);
  expect(view.coveredBy(at(-2, 1.4, 3), centre, 1.2)).toBe(false);
});

test("without perspective it is in the way wherever it stands before them, and not behind or beside", () => {
  const front = new View("front", []);
  front.frame(centre, 1.2);
  const towards = front.camera.position.clone().sub(centre).normalize();
  expect(front.coveredBy(centre.clone().addScaledVector(towards, 30), centre, 1.2)).toBe(true);
  expect(front.coveredBy(centre.clone().addScaledVector(towards, -30), centre, 1.2)).toBe(false);
  expect(front.coveredBy(at(3, 1, 0).addScaledVector(towards, 30), centre, 1.2)).toBe(false);
});

test("what stands alike in two that are compared has no ghost; what moved by a millimetre has one", () => {
  const [own, other] = [0, 1].map(() => new Pose({ joints: 3, controls: 1, values: 2 }));
  own.joints.set([0.5, 1.2, -3, 0, 0, 0, 1, 1]);
  other.joints.set(own.joints);
  expect(standsAlike(own, other)).toBe(true);
  other.joints[2] += 1e-6; // what is left of rounding
  expect(standsAlike(own, other)).toBe(true);
  other.joints[2] += 1e-3;
  expect(standsAlike(own, other)).toBe(false);
});

/** Where a ray meets a ball about the middle of a face, whose skin may be pushed out over what moves it. */
function met(ray: THREE.Ray, pushed: number): number {
  const hit = ray.intersectSphere(new THREE.Sphere(at(0, 1.6, 0), 0.1 + pushed), new THREE.Vector3())!;
  return hit.distanceTo(ray.origin);
}

test("zones of a face are met through a skin that is pushed out by 5 cm, and none on the far side", () => {
  const spots = [
    { name: "brow.L", at: at(0.035, 1.64, 0.085) },
    { name: "brow.R", at: at(-0.035, 1.64, 0.085) },
    { name: "corner.L", at: at(0.03, 1.55, 0.08) },
    { name: "behind", at: at(0.036, 1.64, -0.09) },
  ];
  for (const eye of [at(0, 1.6, 3), at(1.2, 1.75, 2.4), at(0.4, 1.3, 1.5)])
    for (const pushed of [0, 0.05])
      for (const { name, at: spot } of spots.slice(0, 3)) {
        const ray = new THREE.Ray(
          eye,
          spot
            .clone()
            .add(at(0.004, 0.003, 0))
            .sub(eye)
            .normalize(),
        );
        expect(spotAlong(ray, spots, met(ray, pushed), 1.7)).toBe(name);
      }
  const beside = new THREE.Ray(
    at(0, 1.6, 3),
    at(0, 1.69, 0)
      .sub(at(0, 1.6, 3))
      .normalize(),
  );
  expect(spotAlong(beside, spots.slice(2), met(beside, 0.05), 1.7)).toBe(null);
});
