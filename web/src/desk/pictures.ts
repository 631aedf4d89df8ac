// Small pictures of poses, drawn by whatever draws the stage; panels ask for them here.
import { desk } from "./store";
import type { ViewName } from "./types";

interface Source {
  /** Drawn by the processor: pictures then wait longer for the hand to rest. */
  readonly slow: boolean;
  snapshot(width: number, height: number, view: ViewName, sheet: string): HTMLCanvasElement;
}

export const pictures = {
  source: null as Source | null,
  listeners: new Set<() => void>(),
  /** The skins are loaded: pictures can be drawn now. */
  ready() {
    for (const listener of pictures.listeners) listener();
  },
};

/** The cast at some frame, drawn small. The shown pose is put back afterwards. */
export function pictureAt(
  frame: number,
  width: number,
  height: number,
  sheet: string,
  view?: ViewName,
): HTMLCanvasElement | null {
  const { source } = pictures;
  const { cast } = desk();
  if (!source || !cast.length || !cast.every((m) => m.motion.has(frame))) return null;
  const kept = cast.map((m) => ({
    joints: m.pose.joints.slice(),
    controls: m.pose.controls.slice(),
    values: m.pose.values.slice(),
  }));
  for (const member of cast) member.motion.show(frame, member.pose);
  const canvas = source.snapshot(width, height, view ?? desk().view, sheet);
  cast.forEach((member, n) => {
    member.pose.joints.set(kept[n].joints);
    member.pose.controls.set(kept[n].controls);
    member.pose.values.set(kept[n].values);
  });
  return canvas;
}

const wishes = new Map<string, () => void>();
let timer = 0;

/** Nothing waits that could be drawn now. */
export const allDrawn = () => !wishes.size || desk().playing || Boolean(desk().dragged);

/** Draws pictures one after the other while the hand rests, so that no drag or playback waits for them. */
function next() {
  timer = 0;
  const { playing, dragged, waiting } = desk();
  if (!playing && !dragged && !waiting) {
    const [first] = wishes;
    if (first) {
      wishes.delete(first[0]);
      first[1]();
    }
  }
  if (wishes.size) timer = window.setTimeout(next, pictures.source?.slow ? 120 : 40);
}

/** Asks for a picture when there is time; a later wish of the same name replaces an earlier one. */
export function wishPicture(name: string, draw: () => void): () => void {
  wishes.delete(name);
  wishes.set(name, draw);
  if (pictures.source?.slow)
    window.clearTimeout(timer); // what is asked for again and again is drawn once
  else if (timer) return () => forget(name, draw);
  timer = window.setTimeout(next, pictures.source?.slow ? 400 : 150);
  return () => forget(name, draw);
}

function forget(name: string, draw: () => void) {
  if (wishes.get(name) === draw) wishes.delete(name);
}
