// What the pointer is over while it holds nothing: named and marked, so that it is seen what a press would take.
import type * as THREE from "three";
import { labelOf } from "../../../desk/paths";
import { active, desk } from "../../../desk/store";
import { guideUnder } from "../guides";
import type { StageScene } from "../scene";
import { overWay } from "./going";

let guided = false; // whether a guide that can be moved was under it

export function pointOver(scene: StageScene, box: HTMLElement, p: THREE.Vector2) {
  const say = (meant: boolean, title: string) => {
    box.style.cursor = meant ? "pointer" : "default";
    box.title = title;
    scene.draw();
  };
  const { handle, parts, paths, outlines } = scene;
  paths.number(p);
  const pulling = desk().tool === "pull";
  const meant = scene.gripAt(p);
  const part = pulling ? parts.under(p) : null;
  if ((part?.name ?? null) !== parts.over) {
    parts.over = part?.name ?? null;
    say(!!part, part?.label ?? "");
  }
  const mark = meant ? null : paths.under(p);
  if (mark?.path !== paths.over?.path || mark?.frame !== paths.over?.frame) {
    paths.over = mark;
    say(!!mark, mark ? `${labelOf(desk().paths[mark.path])} at ${mark.frame}` : "");
  }
  if (mark || (pulling && !meant)) return;
  const wayed = scene.goings.over;
  const told = meant ? "" : overWay(scene, p);
  if (told) return say(true, told);
  if (wayed && !scene.goings.over) say(false, "");
  const over = meant ? null : (outlines.under(p, scene.on)?.name ?? null);
  const guide = !meant && !over && guideUnder(p, scene.on, scene.view.name) !== null;
  if (meant === handle.meant && over === outlines.over && guide === guided) return;
  handle.meant = meant;
  outlines.over = over;
  guided = guide;
  say(!!(meant || over || guide), over ? (active()?.controls.get(over)?.label ?? "") : guide ? "Drag your guide" : "");
}
