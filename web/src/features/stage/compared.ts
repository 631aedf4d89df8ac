// The other one of two that are compared: as a ghost over the figure, or beside it in a picture of its own.
import * as THREE from "three";
import { otherPose } from "../../desk/other";
import { standsAlike } from "../../model/motion";
import { playhead } from "../../desk/store";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import type { Figure } from "./figure";

export class ComparedGhosts implements Drawn {
  readonly group = new THREE.Group();
  readonly objects = [this.group];
  readonly needs = ["compared", "cast"] as const;
  private readonly tone = new THREE.MeshBasicMaterial({ transparent: true, opacity: 0.34, depthWrite: true });
  private readonly shown = new Map<number, Figure>();

  constructor(private readonly figureOf: (id: number) => Figure | undefined) {}

  setInks(inks: Inks) {
    this.tone.color.set(inks.axisY);
  }

  write({ s: { compared, cast } }: Moment) {
    const wanted = compared?.how === "ghosts" ? cast : [];
    for (const [id, figure] of this.shown) if (!wanted.some((m) => m.id === id)) this.drop(id, figure);
    for (const member of wanted) {
      const pose = otherPose(member, playhead.frame);
      const own = this.figureOf(member.id);
      if (!pose || !own) continue;
      let ghost = this.shown.get(member.id);
      if (!ghost) {
        ghost = own.ghost(this.tone);
        this.shown.set(member.id, ghost);
        this.group.add(ghost.group);
      }
      // One that stands alike would only tint what has not moved.
      ghost.group.visible = !standsAlike(pose, member.pose);
      if (ghost.group.visible) ghost.write(pose);
    }
  }

  private drop(id: number, figure: Figure) {
    this.group.remove(figure.group);
    figure.dispose();
    this.shown.delete(id);
  }

  dispose() {
    for (const [id, figure] of this.shown) this.drop(id, figure);
    this.tone.dispose();
  }
}
