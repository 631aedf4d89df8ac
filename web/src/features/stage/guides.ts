// Guides over the stage, and what a hand moves drawn to them. They lie in no thumbnail and in no film.
import * as THREE from "three";
import { desk } from "../../desk/store";
import { type Guide, nearestOn, piecesOf } from "../../model/guides";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Free, placeBeside, type Ray, rayAt, toPixels } from "./handle";

const SVG = "http://www.w3.org/2000/svg";
/** So many pixels from a guide a control is drawn to it. */
export const SNAPS = 6;

/** Those that are seen in a view. */
const seenIn = (view: string): Guide[] => {
  const { guides, looks } = desk();
  return looks.guides ? guides.filter((guide) => !guide.view || guide.view === view) : [];
};

type Lying = Pick<Guide, "kind" | "points" | "view">;
type Place = [number, number, number];

/** Pixels of half the height of what the camera films: what places on its picture are counted in. */
const half = (on: Ray) => (on.height / 2) * (on.gate?.high ?? 1);

/** A pixel as a place on the picture of the shot camera. */
export const onPicture = (p: THREE.Vector2, on: Ray): Place => [
  (p.x - on.width / 2) / half(on),
  (on.height / 2 - p.y) / half(on),
  0,
];

const pixelOf = (place: Place, { view }: Pick<Guide, "view">, on: Ray) =>
  view === "camera"
    ? new THREE.Vector2(on.width / 2 + place[0] * half(on), on.height / 2 - place[1] * half(on))
    : toPixels(new THREE.Vector3(...place), on, new THREE.Vector2());
const pixelsOf = (guide: Lying, on: Ray) => piecesOf(guide).map((place) => pixelOf(place, guide, on));

const GRASPED = 6; // pixels from a guide at which it is still meant

/** One's own guide under a pixel, with the number of its place there; null where all of it is meant. */
export function guideUnder(p: THREE.Vector2, on: Ray, view: string): { guide: Guide; end: number | null } | null {
  const mine = seenIn(view).filter((guide) => guide.mine);
  for (const guide of mine) {
    const end = guide.points.findIndex((place) => pixelOf(place as Place, guide, on).distanceTo(p) <= GRASPED + 2);
    if (end >= 0) return { guide, end };
  }
  const guide = mine.find((one) => nearestOn(pixelsOf(one, on), p).away <= GRASPED);
  return guide ? { guide, end: null } : null;
}

/** How far a hand takes a guide, or one place of it, across the picture. */
export function carriedBy(
  { guide, end }: { guide: Guide; end: number | null },
  a: THREE.Vector2,
  b: THREE.Vector2,
  on: Ray,
): Place {
  if (guide.view === "camera") {
    const [from, to] = [onPicture(a, on), onPicture(b, on)];
    return [to[0] - from[0], to[1] - from[1], 0];
  }
  const at = new THREE.Vector3(...(guide.points[end ?? 0] as Place));
  const [from, to] = [placeBeside(at, a, on), placeBeside(at, b, on)];
  return from && to ? to.sub(from).toArray() : [0, 0, 0];
}

const cross = ({ x, y }: THREE.Vector2) => `M${x - 6} ${y}h12M${x} ${y - 6}v12`;
const ring = ({ x, y }: THREE.Vector2) => `M${x - 3} ${y}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0`;
function outline(dashes: string): SVGPathElement {
  const path = document.createElementNS(SVG, "path");
  path.setAttribute("fill", "none");
  path.setAttribute("stroke-width", "1.5");
  path.setAttribute("stroke-dasharray", dashes);
  return path;
}

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
    const shown: Lying[] = posing ? [...seenIn(view)] : [];
    if (s.drawing?.points.length)
      shown.push({
        kind: s.drawing.points.length < 2 ? "point" : "line",
        points: s.drawing.points,
        view: s.drawing.view,
      });
    while (this.group.childElementCount > shown.length) this.group.lastChild!.remove();
    while (this.group.childElementCount < shown.length) {
      const both = document.createElementNS(SVG, "g");
      both.append(outline("9 3 2 3"), outline(""));
      this.group.append(both);
    }
    shown.forEach((guide, n) => {
      const [way, ends] = this.group.children[n].children;
      const at = pixelsOf(guide, on);
      const line = at.map(({ x, y }, k) => `${k ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
      way.setAttribute("d", at.length > 1 ? line : "");
      const mark = at.length > 1 ? ring : cross;
      ends.setAttribute("d", guide.points.map((place) => mark(pixelOf(place as Place, guide, on))).join(""));
      for (const path of [way, ends]) path.setAttribute("stroke", this.inks.axisY);
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
