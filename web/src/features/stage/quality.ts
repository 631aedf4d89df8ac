// How finely the stage is drawn: what is left out while something moves, and what a person would rather not see.
import { useLook } from "../../ui/look";
import { LAYER } from "./views";

const WHOLE = [LAYER.outlines, LAYER.marks, LAYER.shadow, LAYER.ground, LAYER.ghosts, LAYER.handle];
export const withShadow = () => useLook.getState().shadow;
export const smoothAtRest = () => useLook.getState().smooth;
/** All that there is to see. */
export const whole = () => (withShadow() ? WHOLE : WHOLE.filter((layer) => layer !== LAYER.shadow));
/** What is left out while something moves, where pictures are computed by the processor: thick outlines, shadows. */
export const QUICK = [LAYER.quick, LAYER.ground, LAYER.ghosts, LAYER.handle];

/** Whether what moves is drawn quickly: by the person's choice, or as the machine lets it. */
export function drawnQuickly(slow: boolean): boolean {
  const { drawing } = useLook.getState();
  return drawing === "itself" ? slow : drawing === "quick";
}

/** Milliseconds after the last change at which a slow stage draws what it left out, and then smooth edges. */
export const REST = 140;
/** The same while something is held: the hand may only pause. */
export const HELD = 600;
export const SMOOTH = 320;
