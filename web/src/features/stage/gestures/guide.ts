// Guides under the hand: a click that places the one which is being drawn, and a drawn one that is moved.
import * as THREE from "three";
import { layGuide, liftGuide, placeGuide } from "../../../desk/guides";
import { movedBy } from "../../../model/guides";
import { desk } from "../../../desk/store";
import { placeBeside } from "../handle";
import { carriedBy, guideUnder, onPicture } from "../guides";
import { sphereOf } from "../placing";
import { type Begin, TREMBLE } from "./gesture";
import { press } from "./press";

export const takeGuide: Begin = ({ scene }, p) => {
  const { drawing, cast } = desk();
  if (!drawing) return undefined;
  if (drawing.view === "camera") {
    void placeGuide(onPicture(p, scene.on));
    return null;
  }
  const middle = scene.stand()?.origin ?? sphereOf(cast).center;
  // On the picture of a view any depth will do; in the world it lies on the skin, or as far away as what is selected.
  const skin = drawing.view ? null : scene.pivotUnder(p);
  const place = skin ?? placeBeside(new THREE.Vector3().copy(middle), p, scene.on);
  if (place) void placeGuide(place.toArray());
  return null;
};

/** One's own guide: an end of it is moved alone, all of it by its line. A click there chooses what lies under it. */
export const takeDrawn: Begin = (hand, from) => {
  const { scene } = hand;
  if (scene.outlines.under(from, scene.on)) return undefined;
  const found = guideUnder(from, scene.on, scene.view.name);
  if (!found) return undefined;
  const { guide, end } = found;
  let moved = false;
  const now = (p: THREE.Vector2) => movedBy(guide, end, carriedBy(found, from, p, scene.on));
  return {
    move(p) {
      moved ||= from.distanceTo(p) > TREMBLE;
      if (moved) liftGuide(guide.id, now(p));
    },
    up(p, event) {
      if (moved) void layGuide(guide.id, now(p), guide.points);
      else press(hand, from).up(p, event);
    },
    cancel: () => liftGuide(guide.id, guide.points),
  };
};
