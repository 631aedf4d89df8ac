// Frames of the open take: fetched when they changed, again when that failed, and shown.
import { bytes } from "../api/client";
import { DRAGGED, type LivePose } from "./live";
import { unpack } from "../model/motion";
import { motionShown } from "./other";
import { desk, type Member, playhead, setDesk, shown } from "./store";

export const pendingAt = (member: Member | undefined, frame: number) => member?.clip.pending[String(frame)];

/** Whether something of a character is carried by others of the cast, or stands on them. */
const tied = (member: Member) =>
  Object.values(member.clip.tracks).some((spans) => spans.some((span) => "figure" in span && span.figure));

/** Frames of one of the cast that have to be fetched. */
export interface Span {
  member: Member;
  first: number;
  last: number;
}

/** So many poses, frames of all who play, are asked for at once: of long motions some come while others are made. */
const MOST_POSES = 4000;

/** A stretch of frames in parts that are asked for one by one. */
export function inParts(first: number, last: number): { first: number; last: number }[] {
  const most = Math.max(Math.floor(MOST_POSES / Math.max(desk().cast.length, 1)), 1);
  const count = Math.ceil((last - first + 1) / most);
  return Array.from({ length: count }, (_, n) => ({
    first: first + n * most,
    last: Math.min(first + (n + 1) * most - 1, last),
  }));
}

/** Fetches frames; those that several of the cast need alike come in one answer. Says whether all have come. */
export async function fetchSpans(spans: Span[]): Promise<boolean> {
  const alike = new Map<string, Span[]>();
  for (const { member, first, last } of spans)
    for (const part of inParts(first, last)) {
      const span = { member, ...part };
      const key = `${span.member.takeId} ${span.first} ${span.last}`;
      alike.set(key, [...(alike.get(key) ?? []), span]);
    }
  const results = await Promise.allSettled([...alike.values()].map(fetchAlike));
  return results.every((result) => result.status === "fulfilled");
}

const castings = (cast: Member[]) => cast.map((member) => `casting=${member.id}`).join("&");

async function fetchAlike(spans: Span[]) {
  const [{ member, first, last }] = spans;
  const cast = spans.map((span) => span.member);
  const got = unpack(await bytes(`/api/takes/${member.takeId}/motion?${castings(cast)}&first=${first}&last=${last}`));
  for (const one of cast) {
    const frames = got.get(one.id);
    if (frames) one.motion.put(frames);
  }
}

let showing = 0;
/** Puts every character in its pose at a frame, with what is pending there laid over. */
export async function showFrame(frame: number) {
  const mine = ++showing;
  playhead.frame = frame;
  const { cast } = desk();
  for (const member of cast) motionShown(member).show(frame, member.pose);
  if (!desk().playing) {
    const some = !desk().compared?.flipped && cast.some((member) => pendingAt(member, frame));
    // Who is tied to one whose pose waits may move with it.
    const waiting = some ? cast.filter((member) => pendingAt(member, frame) || tied(member)) : [];
    if (waiting.length) {
      try {
        const path = `/api/takes/${waiting[0].takeId}/pending?${castings(waiting)}&frame=${frame}`;
        const got = unpack(await bytes(path));
        if (mine !== showing) return;
        for (const member of waiting) {
          const frames = got.get(member.id);
          if (frames) member.pose.take(frames, 0);
        }
      } catch {
        void freshen(); // the pose without what is pending; it is laid over when the server answers
      }
    }
    if (mine !== showing) return;
    setDesk({ frame, posed: desk().posed + 1, moved: null });
  }
  shown();
}

let freshening = false;
/** Fetches what is stale until nothing is: a step was stored, so its frames are owed, however often fetching fails. */
export async function freshen() {
  if (freshening) return;
  freshening = true;
  try {
    for (let wait = 600; ; wait = Math.min(wait * 1.6, 15_000)) {
      await new Promise((done) => setTimeout(done, wait));
      const stale = desk().cast.flatMap((member) =>
        member.motion.stale().map(([first, last]) => ({ member, first, last })),
      );
      if (await fetchSpans(stale)) break;
    }
  } finally {
    freshening = false;
  }
  setDesk({ cast: desk().cast.map((member) => ({ ...member })) });
  if (!desk().dragged && !desk().playing) await showFrame(desk().frame);
}

/** Shows how figures stand during a drag or a trial; channel values are told of the one that is acted on. */
export function showPose(pose: LivePose, of: number) {
  for (const member of desk().cast) {
    const figure = pose.get(member.id);
    if (!figure) continue;
    for (const { name } of DRAGGED) member.pose[name].set(figure[name]);
  }
  setDesk({ dragged: new Map(pose.get(of)?.changed ?? []) });
  shown();
}
