// Whom of the cast the stage draws, and the small pictures that show whom they are of.
import type * as THREE from "three";
import type { Wanted } from "../../desk/pictures";
import { desk } from "../../desk/store";
import type { Figure } from "./figure";
import { sphereOf } from "./placing";
import type { SmallPictures } from "./small";
import { LAYER, View } from "./views";

export type Figures = ReadonlyMap<number, Figure>;

/** Shows whom the person wants to see. */
export function hideHidden(figures: Figures) {
  const { seen } = desk();
  for (const [id, figure] of figures) figure.group.visible = seen[id] !== "hidden";
}

export const drawnOf = (figures: Figures): number[] =>
  [...figures].filter(([, figure]) => figure.group.visible).map(([id]) => id);

/** A small picture of some of the cast at the pose shown now; the stage goes on showing whom it did. */
export function portrait(
  scene: THREE.Scene,
  small: SmallPictures,
  figures: Figures,
  { width, height, view: name, sheet, of, ground }: Required<Wanted>,
): HTMLCanvasElement {
  const view = new View(name === "camera" ? "quarter" : name, [LAYER.shadow, ...(ground ? [LAYER.ground] : [])]);
  view.aspect = width / height;
  const { center, radius } = sphereOf(of);
  view.frame(center, radius);
  for (const each of desk().cast) {
    const figure = figures.get(each.id);
    if (!figure) continue;
    figure.write(each.pose);
    figure.group.visible = of.includes(each);
  }
  const canvas = small.draw(scene, view.camera, width, height, sheet);
  hideHidden(figures);
  return canvas;
}
