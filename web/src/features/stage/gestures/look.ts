// Going round what is looked at, and shifting it.
import type * as THREE from "three";
import { lookFrom } from "../../../desk/viewing";
import type { Gesture, Hand } from "./gesture";

export function look({ scene }: Hand, from: THREE.Vector2, how: "orbit" | "pan"): Gesture {
  let last = from;
  return {
    move(p) {
      const [dx, dy] = [p.x - last.x, p.y - last.y];
      if (how === "orbit") {
        scene.view.orbit(dx, dy);
        lookFrom(scene.view.name);
      } else {
        scene.view.pan(dx, dy, scene.on.height);
        scene.following.keepAside();
      }
      last = p;
      scene.draw();
    },
    up() {},
  };
}
