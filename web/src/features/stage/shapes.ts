// The outlines of controls: pairs of points (segments) in the control's own axes, one unit large.
type Point = [number, number, number];

const TURN = Math.PI * 2;

function loop(point: (t: number) => Point, steps = 28): Point[] {
  const out: Point[] = [];
  for (let n = 0; n < steps; n++) out.push(point(n / steps), point((n + 1) / steps));
  return out;
}

const circle = (axis: "x" | "y" | "z", r = 1): Point[] =>
  loop((t) => {
    const [c, s] = [r * Math.cos(t * TURN), r * Math.sin(t * TURN)];
    return axis === "y" ? [c, 0, s] : axis === "x" ? [0, c, s] : [c, s, 0];
  });

const line = (...points: Point[]): Point[] => points.slice(1).flatMap((p, n) => [points[n], p]);

/** The whole: a wide ring on the ground with a beak that says where forward is. */
const master = [...circle("y"), ...line([-0.22, 0, 0.98], [0, 0, 1.32], [0.22, 0, 0.98])];
/** The body: a ring with four notches outwards. */
const body = [
  ...circle("y"),
  ...[0, 1, 2, 3].flatMap((n) => {
    const a = (n * TURN) / 4 + TURN / 8;
    return line([Math.cos(a), 0, Math.sin(a)], [1.2 * Math.cos(a), 0, 1.2 * Math.sin(a)]);
  }),
];
/** A belt: two arcs, front and back. */
const belt = [
  ...circle("y").map(([x, , z]): Point => [x, 0.12 - 0.18 * z * z, z * 0.86]),
  ...circle("y").map(([x, , z]): Point => [x, -0.12 - 0.18 * z * z, z * 0.86]),
];
/** A crown: a slanted ring, higher at the back, with a nose towards the face. */
const crown = [...circle("y").map(([x, , z]): Point => [x, 1.05 - 0.2 * z, z]), ...line([0, 0.85, 1], [0, 0.62, 1.28])];
const drop = [...circle("z", 0.8), ...line([0, 0.8, 0], [0, 1.25, 0])];
const pole = [
  ...line([-1, 0, 0], [0, 1, 0], [1, 0, 0], [0, -1, 0], [-1, 0, 0]),
  ...line([0, 0, -1], [0, 1, 0], [0, 0, 1], [0, -1, 0], [0, 0, -1]),
];
const bead = [...circle("x"), ...circle("y")];

/** A sole seen from above, from heel (z = 0) to toe (z = 1), a little wider than the foot. */
const foot = loop((t) => {
  const a = t * TURN;
  const z = 0.5 - 0.58 * Math.cos(a);
  const wide = 0.25 + 0.1 * Math.sin(Math.PI * Math.min(Math.max((z - 0.25) / 0.9, 0), 1));
  return [wide * Math.sin(a), 0, z];
}, 36);
/** A mitten's outline around the hand, in the plane across the palm. */
const hand = [...circle("x", 1.25).map(([, y, z]): Point => [0, y * 1.3, z]), ...circle("y", 0.9)];
const toe = [...line([-0.9, 0, 0], [-0.9, 0, 1.6], [0.9, 0, 1.6], [0.9, 0, 0]), ...line([0, 0, 1.6], [0, 0.5, 1.9])];

const OUTLINES: Record<string, Point[]> = {
  master,
  body,
  belt,
  crown,
  drop,
  pole,
  bead,
  foot,
  hand,
  toe,
  ring: circle("y"),
  none: [],
};

/** The segments of an outline as a flat list of numbers. */
export const outlineOf = (kind: string): Float32Array => new Float32Array((OUTLINES[kind] ?? OUTLINES.ring).flat());
