// Where the handle stands and what it can do.
import * as THREE from "three";
import { handleControl, pivotPlace, posedSelection } from "../../desk/pivot";
import { active, desk } from "../../desk/store";
import { CONTROL } from "../../model/motion";
import type { Axes } from "../../model/types";
import type { Ray, Stand } from "./handle";
import { partPlace, selectedPart } from "./parts";

/** The handle's stand as it is seen through a camera; null when nothing is selected that moves or turns. */
export function standOf({ camera }: Ray, s = desk()): Stand | null {
  const member = active(s);
  if (!member || !s.selection.length || s.looks.skin === "only") return null;
  if (s.tool === "pull") {
    const part = selectedPart(member);
    if (part) {
      const origin = partPlace(member, part, new THREE.Vector3());
      return { origin, basis: new THREE.Quaternion(), tool: "move", axes: "world", pivot: null, dropped: false };
    }
  }
  const chosen = posedSelection(s);
  const last = handleControl(s);
  if (!last) return null;
  const can = { move: chosen.some((c) => c.can_move), turn: chosen.some((c) => c.can_turn) };
  const wished = s.tool === "turn" ? "turn" : "move";
  const tool = can[wished] ? wished : wished === "move" ? "turn" : "move";
  const axes: Axes = s.axes[tool];
  const p = member.pose.controls;
  const at = member.rig.controls.indexOf(last) * CONTROL;
  const basis = new THREE.Quaternion();
  if (axes === "own") basis.fromArray(p, at + 3);
  else if (axes === "parent") basis.fromArray(p, at + 8);
  else if (axes === "view") camera.getWorldQuaternion(basis);
  const pivot = tool === "turn" ? pivotPlace(s) : null;
  const dropped = pivot !== null && s.dropped !== null;
  const origin = dropped ? new THREE.Vector3().fromArray(pivot) : new THREE.Vector3().fromArray(p, at);
  return { origin, basis, tool, axes, pivot, dropped };
}
