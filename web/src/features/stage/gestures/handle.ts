// An arm, a plane or a ring of the handle taken hold of; what is dragged without one goes the same way.
import { beginDrag, cancelDrag, dragTo, endDrag } from "../../../desk/dragging";
import { keepPlaced, pullName } from "../../../desk/pulling";
import { desk } from "../../../desk/store";
import type { Grasp } from "../handle";
import { type Begin, type Gesture, graspOf, type Hand } from "./gesture";

/** Drags what a drag was begun with; `pull`: the body follows, `alone`: but for what is dragged. */
export const drag = ({ scene }: Hand, grasp: Grasp, { pull = false, alone = false } = {}): Gesture => ({
  move(p, event) {
    const { wish, readout } = grasp.to(p, event.shiftKey, event.ctrlKey);
    dragTo(pull && wish.do === "move" ? { do: "pull", offset: wish.offset, alone } : wish, readout);
  },
  up() {
    scene.handle.meant = null;
    void endDrag(pull ? pullName() : "").then((ok) => ok && pull && keepPlaced());
  },
  cancel: cancelDrag,
});

export const takeGrip: Begin = (hand, p) => {
  const { scene } = hand;
  const grip = scene.gripAt(p);
  const stand = scene.stand();
  if (!grip || !stand || grip === "pivot") return undefined;
  if (!beginDrag(desk().selection)) return null;
  scene.handle.meant = grip;
  return drag(hand, graspOf(hand, grip, stand, p));
};
