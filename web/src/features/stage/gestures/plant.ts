// A mark on the ground: all of its plant is dragged along the ground by it.
import * as THREE from "three";
import { markPlant } from "../../../desk/choosing";
import { standsAt } from "../../../desk/contacts";
import { beginDrag } from "../../../desk/dragging";
import { select } from "../../../desk/selecting";
import { active, desk } from "../../../desk/store";
import { type Begin, graspOf, standAt } from "./gesture";
import { drag } from "./handle";

export const takePlant: Begin = (hand, p) => {
  const { scene } = hand;
  const member = active();
  const mark = scene.marks.under(p, scene.on);
  const picked = scene.pick(p);
  if (!mark || !member || (picked && picked.control !== mark.control)) return undefined;
  const { frame } = desk();
  if (frame < mark.start || frame > mark.end || !beginDrag([mark.control])) return undefined;
  select([mark.control], "set", member.id);
  markPlant({ control: mark.control, start: mark.start });
  const origin = new THREE.Vector3().fromArray(standsAt(member, mark.control, frame));
  return drag(hand, graspOf(hand, "zx", standAt(origin, "world"), p));
};
