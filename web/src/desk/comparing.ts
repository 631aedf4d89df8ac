// Before and after: another state of the same shot beside the one that is worked on, on the same frames and camera.
import { bytes } from "../api/client";
import { inParts, showFrame } from "./frames";
import { Motion, unpack } from "../model/motion";
import type { Compared, CompareWith } from "./other";
import { say } from "./steps";
import { desk, setDesk } from "./store";

let asking = 0;

/** Shows motions that were worked out and are not stored. */
export function compareWithFound(label: string, motions: Map<number, Motion>) {
  asking++;
  setDesk({
    compared: { with: { what: "fall", label }, how: desk().compared?.how ?? "ghosts", flipped: false, motions },
  });
  if (!desk().playing) void showFrame(desk().frame);
}

/** Fetches the other motion of all who play, and shows it. */
export async function compareWith(other: CompareWith) {
  const mine = ++asking;
  const { cast, shot, takeId } = desk();
  if (!shot || !cast.length) return;
  const query = [
    ...cast.map((member) => `casting=${member.id}`),
    ...(other.what === "step" ? [`step=${other.step}`] : []),
    ...(other.what === "layer" ? [`without=${other.casting}:${other.layer}`] : []),
  ].join("&");
  try {
    const motions = new Map<number, Motion>();
    for (const { first, last } of inParts(shot.start, shot.end)) {
      const take = other.what === "take" ? other.take : takeId;
      const got = unpack(await bytes(`/api/takes/${take}/motion?${query}&first=${first}&last=${last}`));
      if (mine !== asking || takeId !== desk().takeId) return;
      for (const member of cast) {
        const frames = got.get(member.id);
        if (!frames) continue;
        const motion = motions.get(member.id) ?? new Motion(member.motion.counts);
        if (!motions.has(member.id)) motion.resize(shot.start, shot.end);
        motion.put(frames);
        motions.set(member.id, motion);
      }
    }
    const before = desk().compared;
    setDesk({ compared: { with: other, how: before?.how ?? "ghosts", flipped: false, motions } });
    void showFrame(desk().frame);
  } catch (error) {
    say((error as Error).message, true);
  }
}

export function changeCompare(change: Partial<Pick<Compared, "how" | "flipped">>) {
  const { compared, frame, playing } = desk();
  if (!compared) return;
  setDesk({ compared: { ...compared, flipped: false, ...change } });
  if (!playing) void showFrame(frame);
}

export function stopComparing() {
  asking++;
  setDesk({ compared: null });
  if (!desk().playing) void showFrame(desk().frame);
}

/** Shows the other one in place of this one, and back. */
export function flip() {
  const { compared } = desk();
  if (!compared)
    return say("Choose what to compare with in the Arcs bench, under Compare: then Q flips between the two.");
  changeCompare({ how: "flip", flipped: compared.how === "flip" ? !compared.flipped : true });
}
