// The light of the stage: from the upper left, and softly from everywhere.
import * as THREE from "three";

export function lights(): THREE.Light[] {
  const sun = new THREE.DirectionalLight(0xfff4e0, 2.1);
  sun.position.set(-1.2, 3, 2.2);
  const sky = new THREE.HemisphereLight(0xf4f7fa, 0x8c8472, 1.75);
  for (const light of [sun, sky]) light.layers.enableAll();
  return [sun, sky];
}
