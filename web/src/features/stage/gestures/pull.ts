// A part of the body that is pulled, or an arm of the handle on it.
import { beginDrag } from "../../../desk/dragging";
import { holdOf, partOf, plantedParts } from "../../../desk/pulling";
import { howOf, select } from "../../../desk/selecting";
import { say } from "../../../desk/steps";
import { active, desk } from "../../../desk/store";
import { forgetPull } from "../../../desk/trying";
import { selectedPart } from "../parts";
import { type Begin, graspOf } from "./gesture";
import { drag } from "./handle";

export const takePart: Begin = (hand, p, event) => {
  const { scene } = hand;
  const member = active();
  if (!member || desk().tool !== "pull") return undefined;
  const part = scene.parts.under(p);
  const arm = scene.gripAt(p);
  if (part && arm !== "x" && arm !== "y" && arm !== "z") {
    const control = holdOf(member, part);
    const how = howOf(event);
    if (how !== "set" || !desk().selection.some((name) => part.controls.includes(name)))
      select([control], how, member.id);
    const planted = desk().few ? undefined : plantedParts(member).get(part.name);
    if (planted)
      say(
        `${part.label} is planted from ${planted.start} to ${planted.end}, so it stays. ` +
          "Move the plant or take it away to pull there.",
      );
    if (how !== "set" || planted) return null;
  } else if (!arm || !selectedPart(member)) return undefined;
  const stand = scene.stand();
  const controls = desk().selection.filter((name) => partOf(member, name));
  if (!stand || !beginDrag(controls)) return null;
  forgetPull();
  return drag(hand, graspOf(hand, part ? "free" : arm!, stand, p), { pull: true });
};
