// The mark at the end of a limb that is stretched.
import * as THREE from "three";
import { beginDrag, cancelDrag, dragTo, endDrag } from "../../../desk/dragging";
import { active } from "../../../desk/store";
import { toPixels } from "../handle";
import { stretchedTo, stretchingOf } from "../stretch";
import type { Begin } from "./gesture";

export const takeStretch: Begin = ({ scene }, from) => {
  // Where a limb is seen along its length the mark lies by the middle of the handle: what is nearer is meant.
  const stand = scene.stand();
  const middle = stand && toPixels(stand.origin, scene.on, new THREE.Vector2());
  const meant = scene.stretch.under(from) && !(middle && middle.distanceTo(from) < scene.stretch.distance(from));
  const of = meant ? stretchingOf(active()!) : null;
  if (!of || !beginDrag([of.control])) return undefined;
  return {
    move(p, event) {
      const value = stretchedTo(of, from, p, { ...scene.on }, event.shiftKey);
      dragTo({ do: "set", values: { [of.address]: value } }, `${of.label} × ${value.toFixed(2)}`);
    },
    up: () => void endDrag(`Stretch: ${of.label}`),
    cancel: cancelDrag,
  };
};
