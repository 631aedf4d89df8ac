// Frames of the open take: fetched when they changed, again when that failed, and shown.
import { bytes } from "../api/client";
import { unpack } from "./motion";
import { desk, type Member, playhead, setDesk, shown } from "./store";

export const pendingAt = (member: Member | undefined, frame: number) => member?.clip.pending[String(frame)];

export async function fetchMotion(member: Member, first: number, last: number) {
  member.motion.put(
    unpack(await bytes(`/api/takes/${member.takeId}/motion?casting=${member.id}&first=${first}&last=${last}`)),
  );
}

let showing = 0;
/** Puts every character in its pose at a frame, with what is pending there laid over. */
export async function showFrame(frame: number) {
  const mine = ++showing;
  playhead.frame = frame;
  const { cast } = desk();
  for (const member of cast) member.motion.show(frame, member.pose);
  if (!desk().playing) {
    for (const member of cast) {
      if (!pendingAt(member, frame)) continue;
      try {
        const got = unpack(await bytes(`/api/takes/${member.takeId}/pending?casting=${member.id}&frame=${frame}`));
        if (mine !== showing) return;
        member.pose.take(got, 0);
      } catch {
        void freshen(); // the pose without what is pending; it is laid over when the server answers
      }
    }
    if (mine !== showing) return;
    setDesk({ frame, posed: desk().posed + 1 });
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
      const stale = desk().cast.flatMap((member) => member.motion.stale().map((span) => ({ member, span })));
      try {
        await Promise.all(stale.map(({ member, span }) => fetchMotion(member, ...span)));
        break;
      } catch {
        continue;
      }
    }
  } finally {
    freshening = false;
  }
  setDesk({ cast: desk().cast.map((member) => ({ ...member })) });
  if (!desk().dragged && !desk().playing) await showFrame(desk().frame);
}
