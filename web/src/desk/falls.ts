// Falls: worked out by the server as a job, seen beside the motion, and taken in one step.
import { bytes, ask, http } from "../api/client";
import { cancelJob, finished, forgetJob, type Job, unfinished } from "../api/jobs";
import { unpack } from "../model/motion";
import { changeCompare, compareWithFound, stopComparing } from "./comparing";
import { play, stop } from "./playing";
import { commit, here, outbox, say } from "./steps";
import { desk, type Member, setDesk } from "./store";

/** How long somebody falls, and with how much muscle, as shares of all. */
export interface Wish {
  frames: number;
  trunk: number;
  head: number;
  arms: number;
  legs: number;
}
export const MUSCLES = ["trunk", "head", "arms", "legs"] as const;
export const LIMP: Wish = { frames: 48, trunk: 0, head: 0, arms: 0, legs: 0 };

export interface Falling {
  takeId: number;
  casting: number;
  at: number;
  wish: Wish;
  job: Job;
  /** The step after which it was worked out. */
  revision: number;
}

let latest = 0; // which wish it is that counts: an answer to an earlier one comes too late

/** Has it worked out how a figure falls from the playhead on, and shows that beside its motion. */
export async function letFall(member: Member, wish: Wish) {
  const { takeId, frame: at } = desk();
  const mine = leave();
  const counts = () => mine === latest && desk().takeId === takeId;
  try {
    await outbox.settled(); // it is to fall from how it stands on this page
    if (!counts()) return;
    const begun = await ask(
      http.POST("/api/takes/{take_id}/falls", {
        params: { path: { take_id: takeId } },
        body: { casting: member.id, at, ...wish },
      }),
    );
    if (!counts()) return void cancelJob(begun).catch(() => undefined);
    const falling = { takeId, casting: member.id, at, wish, revision: 0 };
    setDesk({ falling: { ...falling, job: begun } });
    const job = await finished(begun, (now) => counts() && setDesk({ falling: { ...falling, job: now } }));
    const got = unpack(await bytes(`/api/jobs/${job.id}/file`));
    if (!counts()) return;
    const motions = new Map(
      desk().cast.flatMap((one) => {
        const frames = got.get(one.id);
        return [[one.id, frames ? one.motion.with(frames) : one.motion] as const];
      }),
    );
    setDesk({ falling: { ...falling, revision: got.get(member.id)?.revision ?? 0, job } });
    compareWithFound(`how ${member.name} falls`, motions);
  } catch (error) {
    if (!counts()) return;
    setDesk({ falling: null });
    say((error as Error).message, true);
  }
}

/** Plays the fall at its true speed in place of the motion, from a little before it. */
export function seeFall() {
  const { falling, shot } = desk();
  if (!falling || !shot) return;
  changeCompare({ how: "flip", flipped: true });
  stop();
  setDesk({ frame: Math.max(falling.at - 12, shot.play_start) });
  play();
}

/** Takes the fall as keys, in one step. */
export async function takeFall() {
  const { falling } = desk();
  if (!falling) return;
  const { takeId, casting, at, wish, revision } = falling;
  if (revision !== desk().revision)
    return say("The motion has changed since: let it fall again, to see what is taken.");
  if (await commit({ kind: "go limp", at, ...wish }, { ...here(), takeId, casting, frame: at })) leaveFall();
}

/** Lets go of a fall, or of its being worked out. */
export const leaveFall = () => void leave();

function leave() {
  const { falling, compared } = desk();
  if (compared?.with.what === "fall") stopComparing();
  if (falling) {
    setDesk({ falling: null });
    (unfinished(falling.job) ? cancelJob(falling.job) : forgetJob(falling.job)).catch(() => undefined);
  }
  return ++latest;
}
