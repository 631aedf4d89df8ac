// Guides over the stage, and what a hand moves drawn to them. They lie in no thumbnail and in no film.
import * as THREE from "three";
import { desk } from "../../desk/store";
import { type Guide, nearestOn, piecesOf } from "../../model/guides";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Free, type Ray, rayAt, toPixels } from "./handle";

const SVG = "http://www.w3.org/2000/svg";
/** So many pixels from a guide a control is drawn to it. */
export const SNAPS = 6;

/** Those that are seen in a view. */
const seenIn = (view: string): Guide[] => {
  const { guides, looks } = desk();
  return looks.guides ? guides.filter((guide) => !guide.view || guide.view === view) : [];
};

const pixelsOf = (guide: Pick<Guide, "kind" | "points">, on: Ray) =>
  piecesOf(guide).map((place) => toPixels(new THREE.Vector3(...place), on, new THREE.Vector2()));

export class Guides implements Drawn {
  readonly objects = [];
  readonly needs = ["guides", "drawing", "looks"] as const;
  private inks!: Inks;
  private readonly group = document.createElementNS(SVG, "g");

  constructor(beside: SVGGElement) {
    this.group.dataset.guides = "";
    beside.before(this.group);
  }

  setInks(inks: Inks) {
    this.inks = inks;
  }

  write({ s, on, view, posing }: Moment) {
    const shown: Pick<Guide, "kind" | "points">[] = posing ? [...seenIn(view)] : [];
    if (s.drawing?.points.length)
      shown.push({ kind: s.drawing.points.length < 2 ? "point" : "line", points: s.drawing.points });
    while (this.group.childElementCount > shown.length) this.group.lastChild!.remove();
    while (this.group.childElementCount < shown.length) {
      const path = document.createElementNS(SVG, "path");
      path.setAttribute("fill", "none");
      path.setAttribute("stroke-width", "1.5");
      this.group.append(path);
    }
    shown.forEach((guide, n) => {
      const path = this.group.children[n];
      const at = pixelsOf(guide, on);
      const cross = ({ x, y }: THREE.Vector2) => `M${x - 6} ${y}h12M${x} ${y - 6}v12`;
      const way = at.map(({ x, y }, k) => `${k ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
      path.setAttribute("d", at.length > 1 ? way : at.map(cross).join(""));
      path.setAttribute("stroke", this.inks.axisY);
      path.setAttribute("stroke-dasharray", at.length > 1 ? "9 3 2 3" : "");
    });
  }

  dispose() {
    this.group.remove();
  }
}

/** Where a place that is moved comes to lie on the nearest guide; null where none is near on the picture. */
export function onGuide(place: THREE.Vector3, on: Ray, view: string, free: Free): THREE.Vector3 | null {
  const pixel = toPixels(place, on, new THREE.Vector2());
  let best: { guide: Guide; found: ReturnType<typeof nearestOn> } | null = null;
  for (const guide of seenIn(view)) {
    const found = nearestOn(pixelsOf(guide, on), pixel);
    if (found.away <= SNAPS && (!best || found.away < best.found.away)) best = { guide, found };
  }
  if (!best) return null;
  const { guide, found } = best;
  const ray = rayAt(new THREE.Vector2(found.x, found.y), on);
  if (free.line) {
    const [a, b] = [place.clone().addScaledVector(free.line, -100), place.clone().addScaledVector(free.line, 100)];
    const there = new THREE.Vector3();
    ray.distanceSqToSegment(a, b, undefined, there);
    return toPixels(there, on, new THREE.Vector2()).distanceTo(pixel) <= 2 * SNAPS ? there : null;
  }
  if (free.normal || guide.view) {
    const normal = free.normal ?? new THREE.Vector3().setFromMatrixColumn(on.camera.matrixWorld, 2);
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(normal, place);
    return ray.intersectPlane(plane, new THREE.Vector3());
  }
  const pieces = piecesOf(guide).map((p) => new THREE.Vector3(...p));
  const there = new THREE.Vector3();
  ray.distanceSqToSegment(pieces[found.piece], pieces[found.piece + 1] ?? pieces[found.piece], undefined, there);
  return there;
}
