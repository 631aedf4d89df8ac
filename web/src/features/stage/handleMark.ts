// The handle as it is drawn: its arms or rings, and their letters beside it.
import * as THREE from "three";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { drawHandle, type Grip, type HandleInks, letters } from "./handle";
import { Lines } from "./lines";
import { standOf } from "./standing";
import { LAYER } from "./views";

export class HandleMark implements Drawn {
  readonly lines = new Lines(2.6, true, 9, LAYER.handle);
  readonly objects = [this.lines.object];
  readonly needs = ["selection", "pivotOn", "pivot", "dropped", "tool", "axes"] as const;
  /** The grip that the pointer is over, or that is held. */
  meant: Grip | null = null;
  private inks!: HandleInks;

  constructor(private readonly tags: Record<"x" | "y" | "z", HTMLElement>) {}

  setInks(inks: Inks) {
    const colour = (hex: string) => new THREE.Color(hex);
    // Ochre, plum and slate: the arms are told apart by their letters first.
    const [x, y, z] = [inks.axisX, inks.axisY, inks.axisZ].map(colour);
    this.inks = { x, y, z, plain: colour(inks.faint), held: colour(inks.red) };
  }

  write({ s, on }: Moment) {
    const stand = s.playing ? null : standOf(on, s);
    drawHandle(this.lines, stand, on, this.inks, this.meant);
    const places = stand && letters(stand, on);
    for (const axis of ["x", "y", "z"] as const) {
      const tag = this.tags[axis];
      tag.style.display = places ? "block" : "none";
      if (places) tag.style.transform = `translate(${places[axis].x - 6}px, ${places[axis].y - 9}px)`;
      tag.style.color = `#${this.inks[axis].getHexString()}`;
    }
  }

  dispose() {
    this.lines.dispose();
  }
}
