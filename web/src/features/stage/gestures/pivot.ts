// A dropped pivot, dragged elsewhere.
import { pivotAt } from "../../../desk/choosing";
import { placeBeside } from "../handle";
import type { Begin } from "./gesture";

export const takePivot: Begin = ({ scene }, p) => {
  const stand = scene.stand();
  if (!stand || scene.gripAt(p) !== "pivot") return undefined;
  return {
    move(p) {
      const place = placeBeside(stand.origin, p, scene.on);
      if (place) pivotAt(place.toArray());
    },
    up() {},
  };
};
