// What a pointer does on the stage between press and release.
import * as THREE from "three";
import { Grasp, type Grip, type Stand } from "../handle";
import { onGuide } from "../guides";
import type { StageScene } from "../scene";

/** What all gestures have to hand. */
export interface Hand {
  scene: StageScene;
  /** The gesture that goes on; another one takes its place by being put here. */
  now: Gesture | null;
  /** Where an area is drawn. */
  area: SVGPolygonElement | null;
}

export interface Gesture {
  move(p: THREE.Vector2, event: React.PointerEvent): void;
  up(p: THREE.Vector2, event: React.PointerEvent): void;
  /** Everything is as it was before: by Escape, or where the pointer was taken away. */
  cancel?(): void;
}

/** What begins with a press at a pixel: a gesture, nothing at all (null), or what others may begin (undefined). */
export type Begin = (hand: Hand, p: THREE.Vector2, event: React.PointerEvent) => Gesture | null | undefined;

/** The grip of a handle taken hold of, seen as it is now. */
export const graspOf = ({ scene }: Hand, grip: Grip, stand: Stand, p: THREE.Vector2) =>
  new Grasp(grip, stand, { ...scene.on }, p, (place, free) => onGuide(place, scene.on, scene.view.name, free));

/** A place that is dragged freely, though no handle stands there. */
export const standAt = (origin: THREE.Vector3, axes: Stand["axes"]): Stand => ({
  origin,
  basis: new THREE.Quaternion(),
  tool: "move",
  axes,
  pivot: null,
  dropped: false,
});

/** So many pixels a press may tremble. */
export const TREMBLE = 4;
