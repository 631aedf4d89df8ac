// Which gesture a press begins: those that are named first take it first. A new gesture is a file and a line here.
import type * as THREE from "three";
import { stop } from "../../../desk/playing";
import type { Begin, Gesture, Hand } from "./gesture";
import { takeWay } from "./going";
import { takeDrawn, takeGuide } from "./guide";
import { takeGrip } from "./handle";
import { look } from "./look";
import { takeMark } from "./mark";
import { takePivot } from "./pivot";
import { takePlant } from "./plant";
import { press } from "./press";
import { takePart } from "./pull";
import { takeStretch } from "./stretch";

const TAKEN: Begin[] = [takeGuide, takeWay, takePart, takeStretch, takeMark, takePivot, takeGrip, takePlant, takeDrawn];

export function begin(hand: Hand, p: THREE.Vector2, event: React.PointerEvent): Gesture | null {
  if (event.button === 1 || (event.button === 2 && event.shiftKey)) return look(hand, p, "pan");
  if (event.button === 2) return look(hand, p, "orbit");
  if (event.button !== 0) return null;
  stop();
  for (const take of TAKEN) {
    const taken = take(hand, p, event);
    if (taken !== undefined) return taken;
  }
  return press(hand, p);
}
