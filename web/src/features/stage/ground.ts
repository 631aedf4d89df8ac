// The ground: a grid of half metres, with a bolder line at every metre.
import * as THREE from "three";
import type { Inks } from "../../theme";
import type { Drawn } from "./drawn";
import { LAYER } from "./views";

const REACH = 6; // metres from the middle

export class Ground implements Drawn {
  readonly group = new THREE.Group();
  readonly objects = [this.group];
  readonly needs = [] as const;

  /** It is the same in every picture. */
  write() {}

  setInks(inks: Inks) {
    this.dispose();
    const thin: number[] = [];
    const bold: number[] = [];
    for (let n = -REACH * 2; n <= REACH * 2; n++) {
      const into = n % 2 === 0 ? bold : thin;
      into.push(n / 2, 0, -REACH, n / 2, 0, REACH, -REACH, 0, n / 2, REACH, 0, n / 2);
    }
    for (const [points, hex, order] of [
      [thin, inks.floor, 0],
      [bold, inks.line, 1],
    ] as const) {
      const geometry = new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
      const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: hex }));
      lines.renderOrder = order - 10;
      lines.layers.set(LAYER.ground);
      this.group.add(lines);
    }
  }

  dispose() {
    for (const child of [...this.group.children] as THREE.LineSegments[]) {
      this.group.remove(child);
      child.geometry.dispose();
      (child.material as THREE.Material).dispose();
    }
  }
}
