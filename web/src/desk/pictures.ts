// Small pictures of poses, drawn by whatever draws the stage; panels ask for them here.
import { CAMERA_LENS } from "./camera";
import { desk, type Member } from "./store";
import type { ViewName } from "../model/types";

/** What a small picture shows: whom, from where, on which paper, and whether the ground is drawn. */
export interface Wanted {
  width: number;
  height: number;
  sheet: string;
  view?: ViewName;
  of?: Member[];
  ground?: boolean;
}

interface Source {
  /** Drawn by the processor: pictures then wait longer for the hand to rest. */
  readonly slow: boolean;
  snapshot(wanted: Required<Wanted>): HTMLCanvasElement;
}

export const pictures = {
  source: null as Source | null,
  /** None is drawn before this moment: the hand is shifting time. */
  after: 0,
  listeners: new Set<() => void>(),
  /** The skins are loaded: pictures can be drawn now. */
  ready() {
    for (const listener of pictures.listeners) listener();
  },
};

/** The cast, or some of them, at some frame, drawn small. The shown pose is put back afterwards. */
export function pictureAt(frame: number, wanted: Wanted): HTMLCanvasElement | null {
  const { source } = pictures;
  const { cast, view } = desk();
  if (!source || !cast.length || !cast.every((m) => m.motion.has(frame))) return null;
  const kept = cast.map(({ pose }) => [pose.joints.slice(), pose.controls.slice(), pose.values.slice()]);
  for (const member of cast) member.motion.show(frame, member.pose);
  // A camera films the others and is no part of what is to be seen.
  const seen = cast.filter((member) => !member.channels.has(CAMERA_LENS));
  const canvas = source.snapshot({ view, of: seen.length ? seen : cast, ground: false, ...wanted });
  cast.forEach(({ pose }, n) => {
    pose.joints.set(kept[n][0]);
    pose.controls.set(kept[n][1]);
    pose.values.set(kept[n][2]);
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
  if (!playing && !dragged && !waiting && performance.now() > pictures.after) {
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
