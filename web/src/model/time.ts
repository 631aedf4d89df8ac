// Which frames the time line shows, and where they lie in pixels. Strip, sheet, rows and graph all lie on these.

/** Frames that are shown, from the middle of one to the middle of another; they need not be whole. */
export interface Stretch {
  first: number;
  last: number;
}

/** Pixels right of the last frame, and between what stands at the left and the first one. */
export const MARGIN = 36;
export const AFTER_LABELS = 14;
/** So few frames are the nearest that is looked at. */
const LEAST = 4;

/** What the frames lie in: so many pixels wide, the first of them so far from its left. */
export interface Room {
  left: number;
  width: number;
}

export interface Place extends Room, Stretch {
  /** Pixels from one frame to the next. */
  gap: number;
  x: (frame: number) => number;
  /** The whole frame that is nearest to a pixel. */
  frameAt: (left: number) => number;
  /** The time under a pixel, between frames too. */
  timeAt: (left: number) => number;
}

export const leftOf = (inset: number) => (inset ? inset + AFTER_LABELS : MARGIN);

export const gapOf = ({ left, width }: Room, { first, last }: Stretch) =>
  Math.max(width - left - MARGIN, 1) / Math.max(last - first, 1e-6);

export function placed(frame: Room, shown: Stretch): Place {
  const gap = gapOf(frame, shown);
  const timeAt = (px: number) => (px - frame.left) / gap + shown.first;
  return {
    ...frame,
    ...shown,
    gap,
    x: (f) => frame.left + (f - shown.first) * gap,
    timeAt,
    frameAt: (px) => Math.round(timeAt(px)),
  };
}

/** To parts of a frame that add up exactly, so that shifting leaves the pixels a frame what they were, to the bit. */
const exact = (time: number) => Math.round(time * 1024) / 1024;

/** A stretch as long as wished, moved so that it lies within the bounds, and no longer than they are. */
export function within({ first, last }: Stretch, bounds: Stretch): Stretch {
  const most = Math.max(bounds.last - bounds.first, LEAST);
  const long = exact(Math.min(Math.max(last - first, LEAST), most));
  const begin = exact(Math.min(Math.max(first, bounds.first), bounds.first + most - long));
  return { first: begin, last: begin + long };
}

/** Nearer by a factor (further below 1), what lies at `about` staying under the pointer where the bounds let it. */
export function zoomed(shown: Stretch, about: number, by: number, bounds: Stretch): Stretch {
  const long = shown.last - shown.first;
  const wished = Math.min(Math.max(long / by, LEAST), Math.max(bounds.last - bounds.first, LEAST));
  const share = (about - shown.first) / long;
  return within({ first: about - share * wished, last: about + (1 - share) * wished }, bounds);
}

export const shifted = (shown: Stretch, by: number, bounds: Stretch): Stretch =>
  within({ first: shown.first + by, last: shown.last + by }, bounds);

/** The stretch moved so far that a frame is seen in it, with a tenth of it to spare. */
export function showing(shown: Stretch, frame: number, bounds: Stretch): Stretch {
  if (frame >= shown.first && frame <= shown.last) return shown;
  const room = (shown.last - shown.first) / 10;
  const by = frame < shown.first ? frame - room - shown.first : frame + room - shown.last;
  return shifted(shown, by, bounds);
}

/** Whole frames about what is shown that stay the same while it is shifted a little, half of it more at each side. */
export function windowOf({ first, last }: Stretch): [number, number] {
  const block = Math.max(Math.ceil((last - first) / 2 - 1e-6), 1);
  return [Math.floor(first / block) * block - block, Math.ceil(last / block) * block + block];
}

/** Of rising frames those from one to another. */
export function between(frames: readonly number[], from: number, to: number): number[] {
  const at = (wanted: number) => {
    let [low, high] = [0, frames.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (frames[middle] < wanted) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  return frames.slice(at(from), at(to + 1e-9));
}

/**
 * The frames that are marked by a card: of those that rank first as many as have room, then the next; never two nearer
 * than `apart` pixels. What is shown does not count, so that shifting takes no card away.
 */
export function thinned(frames: readonly number[], rank: (frame: number) => number, gap: number, apart: number) {
  const kept = new Map<number, number>(); // by cell of that width
  const ranked: number[][] = [];
  for (const f of frames) (ranked[rank(f)] ??= []).push(f);
  for (const some of ranked)
    for (const f of some ?? []) {
      const cell = Math.floor((f * gap) / apart);
      const near = [cell - 1, cell, cell + 1].map((c) => kept.get(c));
      if (near.every((k) => k === undefined || Math.abs(k - f) * gap >= apart)) kept.set(cell, f);
    }
  return [...kept.values()].sort((a, b) => a - b);
}

/** Frames scaled in time about one of them, as the core lays them: to whole frames, halves up. */
export const scaled = (frame: number, about: number, factor: number) =>
  Math.floor(about + (frame - about) * factor + 0.5);

/** Stretches of rising frames that lie no further apart than so many. */
export function runs(frames: readonly number[], apart: number): [number, number][] {
  const found: [number, number][] = [];
  for (const f of frames) {
    const last = found[found.length - 1];
    if (last && f - last[1] <= apart) last[1] = f;
    else found.push([f, f]);
  }
  return found;
}
