// Guides on the stage: points, lines and arcs, in the world or on the picture of a straight view.
import type { Schemas } from "../api/client";

export type Guide = Schemas["GuideOut"];
export type GuideKind = Schemas["GuideIn"]["kind"];
type Place = [number, number, number];

export const NEEDED: Record<GuideKind, number> = { point: 1, line: 2, arc: 3 };
const PIECES = 48;

const sub = (a: Place, b: Place): Place => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: Place, b: Place) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Place, b: Place): Place => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const along = (a: Place, b: Place, by: number): Place => [a[0] + b[0] * by, a[1] + b[1] * by, a[2] + b[2] * by];

/** The places of a guide, from which it is drawn piece by piece; an arc goes from its first through its second. */
export function piecesOf({ kind, points }: Pick<Guide, "kind" | "points">): Place[] {
  const places = points as Place[];
  return kind === "arc" && places.length === 3 ? arc(places[0], places[1], places[2]) : places;
}

/** A guide with one of its places moved by so much, or all of them. */
export const movedBy = ({ points }: Pick<Guide, "points">, end: number | null, by: Place): Place[] =>
  (points as Place[]).map((place, n) => (end === null || end === n ? along(place, by, 1) : place));

/** An arc of a circle from a place through another to a third; straight where they lie on one line. */
export function arc(a: Place, b: Place, c: Place): Place[] {
  const [u, v] = [sub(b, a), sub(c, a)];
  const normal = cross(u, v);
  const size = dot(normal, normal);
  if (size < 1e-12) return [a, b, c];
  // The middle of the circle through three places: Weisstein, "Circumcenter", MathWorld (from memory).
  const to = along([0, 0, 0], cross(normal, u), dot(v, v) / (2 * size));
  const middle = along(along(a, to, 1), cross(v, normal), dot(u, u) / (2 * size));
  const first = sub(a, middle);
  const radius = Math.sqrt(dot(first, first));
  const x = along([0, 0, 0], first, 1 / radius);
  const y = along([0, 0, 0], cross(normal, x), 1 / Math.sqrt(size));
  const angle = (place: Place) => {
    const from = sub(place, middle);
    const found = Math.atan2(dot(from, y), dot(from, x));
    return found < 0 ? found + 2 * Math.PI : found;
  };
  // About the normal of the three it comes past the second before the third.
  const whole = angle(c);
  return Array.from({ length: PIECES + 1 }, (_, n) => {
    const at = (whole * n) / PIECES;
    return along(along(middle, x, radius * Math.cos(at)), y, radius * Math.sin(at));
  });
}

/** Which of some pieces on a picture is nearest to a pixel, how far along it, and how many pixels away. */
export function nearestOn(pixels: { x: number; y: number }[], p: { x: number; y: number }) {
  let best = { piece: 0, share: 0, away: Infinity, x: 0, y: 0 };
  for (let n = 0; n < Math.max(pixels.length - 1, 1); n++) {
    const a = pixels[n];
    const b = pixels[n + 1] ?? a;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy;
    const share = length ? Math.min(Math.max(((p.x - a.x) * dx + (p.y - a.y) * dy) / length, 0), 1) : 0;
    const [x, y] = [a.x + dx * share, a.y + dy * share];
    const away = Math.hypot(p.x - x, p.y - y);
    if (away < best.away) best = { piece: n, share, away, x, y };
  }
  return best;
}
