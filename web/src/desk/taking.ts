// Taking over what steps changed, one's own and other people's: curves, pending poses, and the frames that moved.
import { ask, http } from "../api/client";
import { taken } from "../model/taken";
import { heardOf, revisionOf } from "./basis";
import { fetchSpans, freshen, showFrame, type Span } from "./frames";
import { desk, setDesk } from "./store";
import type { Stored } from "../model/along";
import type { Shot } from "../model/types";

/**
 * Takes over an answer. One for a take that is not open any more is let go, as is one that is older than what the page
 * knows. Frames that cannot be fetched now are fetched later; that is no reason to make the step again.
 */
export async function takeOver(takeId: number, done: Stored): Promise<void> {
  heardOf(takeId, done.revision);
  if (takeId !== desk().takeId || done.revision < desk().revision) return;
  const now: Span[] = [];
  const later: Span[] = [];
  const frame = desk().frame;
  const cast = desk().cast.map((member) => {
    const moved: [number, number][] = [];
    for (const [from, to] of done.moves[String(member.id)] ?? []) {
      const span = member.motion.spoil(from, to);
      if (span) moved.push(span);
    }
    for (const got of done.frames ?? []) {
      const frames = got.get(member.id);
      if (frames) member.motion.put(frames); // they came along
    }
    for (const [first, last] of moved.flatMap(([a, b]) => member.motion.stale(a, b))) {
      // What is looked at comes first; the rest of a long change follows without holding anything up.
      const wide = last - first > 8;
      if (wide && frame >= first && frame <= last) now.push({ member, first: frame, last: frame });
      (wide ? later : now).push({ member, first, last });
    }
    const change = done.clips[String(member.id)];
    return change ? { ...member, clip: taken(member.clip, change) } : member;
  });
  setDesk({ cast, revision: done.revision, canUndo: done.can_undo, canRedo: done.can_redo });
  const fetched = await fetchSpans(now);
  if (takeId !== desk().takeId) return;
  setDesk({ dragged: null });
  await showFrame(desk().frame);
  const rest = fetchSpans(later);
  if (!fetched) void freshen();
  else if (later.length)
    void rest.then((all) => {
      if (takeId !== desk().takeId) return;
      if (!all) return void freshen();
      setDesk({ cast: desk().cast.map((member) => ({ ...member })) });
      if (!desk().dragged && !desk().playing) void showFrame(desk().frame);
    });
}

/** What a person has changed of the shot's own fields, or of a take's name. */
export const shotNow = (shot: Shot) => setDesk({ shot });
export function takeRenamed(id: number, name: string) {
  const { shot, takeId, takeName } = desk();
  const takes = shot?.takes.map((one) => (one.id === id ? { ...one, name } : one));
  setDesk({ takeName: id === takeId ? name : takeName, shot: shot && { ...shot, takes: takes! } });
}

/** Asks for everything that happened since the page last heard. Throws when the server does not answer. */
export async function catchUp(takeId: number): Promise<void> {
  const since = revisionOf(takeId);
  await takeOver(
    takeId,
    await ask(http.GET("/api/takes/{take_id}/changes", { params: { path: { take_id: takeId }, query: { since } } })),
  );
}

let heard = { takeId: 0, revision: 0 };
let following = false;
/**
 * Catches up with a take that others have changed up to a revision. It need not wait for one's own steps: answers that
 * come in another order are told apart by their revision. One that fails is made good by the next one heard of.
 */
export async function follow(takeId: number, revision: number): Promise<void> {
  heard = { takeId, revision: heard.takeId === takeId ? Math.max(heard.revision, revision) : revision };
  if (following) return;
  following = true;
  try {
    for (
      let known = -1;
      heard.takeId === desk().takeId && heard.revision > desk().revision && desk().revision !== known;
    ) {
      known = desk().revision;
      await catchUp(heard.takeId);
    }
  } catch {
    heard = { takeId: 0, revision: 0 };
  } finally {
    following = false;
  }
}
