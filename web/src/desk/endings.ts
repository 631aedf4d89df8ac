// Where a motion can end so that it goes on: where a foot comes to stand, or after whole turns of a cycle.
import { ask, http } from "../api/client";
import { changeShot } from "./casting";
import { lookUpNow } from "./looking";
import { say } from "./steps";
import { desk, type Member } from "./store";
import { wholeTurns } from "../model/cycles";
import { type Found, cycleAt } from "../model/types";

/** So many frames before a wished one are looked through. */
const FAR = 600;

/** The frames at which a foot of a figure comes to stand, by how its motion goes. */
async function landings(member: Member, first: number, last: number): Promise<number[]> {
  const query = { casting: member.id, first, last };
  const found: Found[] = await lookUpNow({
    what: "plants found",
    of: [query],
    ask: (take_id) => ask(http.GET("/api/takes/{take_id}/plants", { params: { path: { take_id }, query } })),
  });
  const legs = new Set(member.rig.limbs.filter((limb) => limb.kind === "leg").map((limb) => limb.ik));
  return [...new Set(found.filter((plant) => legs.has(plant.control)).map((plant) => plant.start))].sort(
    (a, b) => a - b,
  );
}

/** The last landing up to a wished frame; says why there is none. */
export async function landingBefore(member: Member, after: number, wished: number): Promise<number | null> {
  try {
    const from = Math.max(after, wished - FAR);
    const frames = (await landings(member, from, wished)).filter((frame) => frame > from && frame <= wished);
    if (!frames.length) say(`No foot comes to stand from ${from + 1} to ${wished}.`);
    return frames.at(-1) ?? null;
  } catch (error) {
    say((error as Error).message, true);
    return null;
  }
}

/** Ends what is played where a foot comes to stand last, at its end or before. */
export async function playToLanding(member: Member) {
  const { shot } = desk();
  if (!shot) return;
  const to = await landingBefore(member, shot.play_start, shot.play_end);
  if (to === null) return;
  await changeShot({ play_end: to });
  say(`Played up to ${to}, where a foot comes to stand.`);
}

/** Ends what is played after whole turns of the cycle; the frame that shows its first one again is left out. */
export async function playWholeTurns(member: Member) {
  const { shot, frame } = desk();
  if (!shot) return;
  const cycle = cycleAt(member.clip, frame) ?? cycleAt(member.clip, shot.play_end);
  if (!cycle) return say("No cycle plays here; go to one, or make one in Block, Cycle.");
  const to = wholeTurns(cycle, Math.min(shot.play_end + 1, cycle.until)) - 1;
  await changeShot({
    play_end: to,
    ...(shot.play_start < cycle.start || shot.play_start > to ? { play_start: cycle.start } : {}),
  });
  say(`Played up to ${to}: whole turns of the cycle from ${cycle.start}.`);
}
