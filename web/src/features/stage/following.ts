// The stage goes along with a figure that travels, and leaves it where the hand put it.
import * as THREE from "three";
import { active, desk, playhead } from "../../desk/store";
import { middleOf } from "./placing";
import type { View } from "./views";

const SLACK = 0.12; // of the figure's height: so far it goes before the stage goes along

export class Following {
  /** How far beside the figure's middle the stage looks by the person's own wish. */
  private readonly aside = new THREE.Vector3();
  /** The character and frame at which something was last dragged, or nothing once that has been left. */
  private draggedAt = "";
  /** Whom it went along with last: to choose another one is no reason for the stage to move. */
  private whom = 0;

  constructor(private readonly view: View) {}

  /** Where the stage looks now is where it goes on looking, beside the figure. */
  keepAside() {
    const member = active();
    if (member) this.aside.copy(this.view.target).sub(middleOf(member));
  }

  /** Called for every pose that is shown. */
  follow() {
    const s = desk();
    const member = s.looks.follow ? active(s) : undefined;
    if (!member) return;
    if (member.id !== this.whom) {
      if (this.whom) this.keepAside();
      this.whom = member.id;
    }
    // What is dragged moves on a stage that stands still, and stays where the hand left it.
    const at = `${member.id} ${playhead.frame}`;
    if (s.dragged) this.draggedAt = at;
    if (this.draggedAt === at) return;
    this.draggedAt = "";
    const away = middleOf(member).add(this.aside).sub(this.view.target).setY(0);
    // Some slack, so that a body that sways over its feet is seen to sway.
    const beyond = away.length() - SLACK * member.rig.height;
    if (beyond <= 0) return;
    this.view.target.addScaledVector(away.normalize(), beyond);
    this.view.update();
  }
}
