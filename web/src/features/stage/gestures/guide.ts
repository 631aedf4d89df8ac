// A click that places the guide which is being drawn.
import * as THREE from "three";
import { placeGuide } from "../../../desk/guides";
import { desk } from "../../../desk/store";
import { placeBeside } from "../handle";
import { sphereOf } from "../placing";
import type { Begin } from "./gesture";

export const takeGuide: Begin = ({ scene }, p) => {
  const { drawing, cast } = desk();
  if (!drawing) return undefined;
  const middle = scene.stand()?.origin ?? sphereOf(cast).center;
  // On the picture of a view any depth will do; in the world it lies on the skin, or as far away as what is selected.
  const skin = drawing.view ? null : scene.pivotUnder(p);
  const place = skin ?? placeBeside(new THREE.Vector3().copy(middle), p, scene.on);
  if (place) void placeGuide(place.toArray());
  return null;
};
