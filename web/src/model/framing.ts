// A camera moved along its line of sight, and across it, until all of what moves is in its picture.

type Place = [number, number, number];
export interface Filmed {
  /** The camera's place and quaternion, and its lens and gate in millimetres. */
  spot: ArrayLike<number>;
  lens: number;
  wide: number;
  high: number;
}

const ROOM = 1.12; // so much of the picture is left free round what is filmed

/** To the right, up, and backwards of a camera, which looks along its z axis as figures do. */
function axes([x, y, z, w]: number[]): [Place, Place, Place] {
  return [
    [2 * (y * y + z * z) - 1, -2 * (x * y + z * w), 2 * (y * w - x * z)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [-2 * (x * z + y * w), 2 * (x * w - y * z), 2 * (x * x + y * y) - 1],
  ];
}
const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Whether spheres, each a middle with a radius, are all in the picture. */
export function inPicture({ spot, lens, wide, high }: Filmed, spheres: { middle: Place; radius: number }[]): boolean {
  const [right, up, back] = axes(Array.from(spot).slice(3, 7));
  return spheres.every(({ middle, radius }) => {
    const to = middle.map((n, k) => n - spot[k]);
    const deep = -dot(to, back);
    return [
      [right, wide],
      [up, high],
    ].every(([axis, gate]) => {
      const slope = (gate as number) / 2 / lens;
      const from = Math.abs(dot(to, axis as Place)) + radius * Math.hypot(1, slope);
      return deep > radius && from <= slope * deep;
    });
  });
}

/** Where the camera has to stand, looking as it does, to have all of the spheres in its picture. */
export function placeFor({ spot, lens, wide, high }: Filmed, spheres: { middle: Place; radius: number }[]): Place {
  const [right, up, back] = axes(Array.from(spot).slice(3, 7));
  const place: Place = [0, 0, 0];
  let deep = -Infinity;
  for (const [axis, gate] of [
    [right, wide],
    [up, high],
  ] as [Place, number][]) {
    const slope = gate / 2 / lens / ROOM;
    const edge = Math.hypot(1, slope);
    // The two edges of the picture that just hold all: their lines cross where the camera stands.
    const over = Math.max(...spheres.map((s) => dot(s.middle, axis) + slope * dot(s.middle, back) + s.radius * edge));
    const under = Math.max(...spheres.map((s) => -dot(s.middle, axis) + slope * dot(s.middle, back) + s.radius * edge));
    const across = (over - under) / 2;
    deep = Math.max(deep, (over + under) / 2 / slope);
    for (let k = 0; k < 3; k++) place[k] += axis[k] * across;
  }
  return place.map((n, k) => n + back[k] * deep) as Place;
}
