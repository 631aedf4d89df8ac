// Many curves at once: those that look alike, as one path for each stretch of time.
import { keyCount, type Table, traceOf, VALUE, WIDTH } from "../../model/curves";
import type { Shown } from "./shown";

/** A stretch of time of curves that look alike: as one path each, in frames and values. */
interface Stretch {
  /** What is drawn of it lies between these frames. */
  first: number;
  last: number;
  lines: Path2D;
  dots: Path2D;
  /** The same in pixels from the first of all frames and from zero, as it was laid for a scale. */
  laid?: { across: number; up: number; lines: Path2D; dots: Path2D };
}

/** A stretch at so many pixels a frame and a unit: laid once, and moved along with the hand. */
export function laid(stretch: Stretch, across: number, up: number): { lines: Path2D; dots: Path2D } {
  if (stretch.laid?.across === across && stretch.laid.up === up) return stretch.laid;
  const scaled = new DOMMatrix([across, 0, 0, -up, 0, 0]);
  const put = (path: Path2D) => {
    const made = new Path2D();
    made.addPath(path, scaled);
    return made;
  };
  stretch.laid = { across, up, lines: put(stretch.lines), dots: put(stretch.dots) };
  return stretch.laid;
}

/** Curves and dots of keys that look alike, stretch by stretch: only what is seen has to be laid on the picture. */
interface Group {
  stretches: Map<number, Stretch>;
  colour: string;
  width: number;
  scale: number;
  shift: number;
}

const grouped = new WeakMap<Shown[], { without: string; groups: Group[] }>();

const FAR = 1e4;
const LONG = 240; // frames of a stretch

function stretchAt({ stretches }: Group, frame: number): Stretch {
  const number = Math.floor(frame / LONG);
  let found = stretches.get(number);
  if (!found) {
    const [first, last] = [number * LONG, (number + 1) * LONG];
    stretches.set(number, (found = { first, last, lines: new Path2D(), dots: new Path2D() }));
  }
  return found;
}

/** Of many curves those that nothing is done to, in groups: each is drawn at once, however many it holds. */
export function groupsOf(curves: Shown[], without: Set<string>): Group[] {
  const key = [...without].join();
  const known = grouped.get(curves);
  if (known?.without === key) return known.groups;
  const found = new Map<string, Group>();
  for (const curve of curves) {
    if (without.has(curve.address)) continue;
    const alike = `${curve.colour} ${curve.width} ${curve.scale} ${curve.shift}`;
    let group = found.get(alike);
    if (!group) {
      const { colour, width, scale, shift } = curve;
      found.set(alike, (group = { stretches: new Map(), colour, width, scale, shift }));
    }
    gather(group, curve.table);
  }
  const groups = [...found.values()];
  grouped.set(curves, { without: key, groups });
  return groups;
}

/** Takes a curve into the stretches of its keys; what leads beyond one is drawn with where it begins. */
function gather(group: Group, table: Table) {
  const count = keyCount(table);
  const end = (count - 1) * WIDTH;
  for (let from = 0; from < count;) {
    const stretch = stretchAt(group, table[from * WIDTH]);
    let to = from;
    while (to < count && table[to * WIDTH] < (Math.floor(table[from * WIDTH] / LONG) + 1) * LONG) {
      const i = to * WIDTH;
      stretch.dots.moveTo(table[i], table[i + VALUE]);
      stretch.dots.lineTo(table[i], table[i + VALUE]); // a way of no length has round ends: a dot of the pen's width
      to++;
    }
    const next = Math.min(to, count - 1);
    if (next > from) traceOf(stretch.lines, table, from, next);
    stretch.last = Math.max(stretch.last, table[next * WIDTH]);
    if (from === 0) {
      stretch.lines.moveTo(table[0] - FAR, table[VALUE]);
      stretch.lines.lineTo(table[0], table[VALUE]);
      stretch.first = -Infinity;
    }
    if (to === count) {
      stretch.lines.moveTo(table[end], table[end + VALUE]);
      stretch.lines.lineTo(table[end] + FAR, table[end + VALUE]);
      stretch.last = Infinity;
    }
    from = to;
  }
}
