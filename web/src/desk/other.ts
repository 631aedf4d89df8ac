// The other one of two motions that are compared, for whoever shows frames.
import { type Motion, Pose } from "../model/motion";
import { desk, type Member } from "./store";

export type CompareHow = "ghosts" | "beside" | "flip";
/**
 * What is compared with: a step of the history (0: before the first), another take, the motion without a layer, or how
 * somebody would fall.
 */
export type CompareWith =
  | { what: "step"; step: number; label: string }
  | { what: "take"; take: number; label: string }
  | { what: "layer"; casting: number; layer: number; label: string }
  | { what: "fall"; label: string };

export interface Compared {
  with: CompareWith;
  how: CompareHow;
  /** Whether the other one is shown, where the two are flipped. */
  flipped: boolean;
  motions: Map<number, Motion>;
}

/** The motion of one of the cast that stands on the stage: its own, or where the two are flipped, the other. */
export function motionShown(member: Member): Motion {
  const { compared } = desk();
  return (compared?.how === "flip" && compared.flipped && compared.motions.get(member.id)) || member.motion;
}

const poses = new WeakMap<Motion, Pose>();
/** The pose of the other one at a frame. */
export function otherPose(member: Member, frame: number): Pose | null {
  const motion = desk().compared?.motions.get(member.id);
  if (!motion) return null;
  let pose = poses.get(motion);
  if (!pose) poses.set(motion, (pose = new Pose(motion.counts)));
  motion.show(frame, pose);
  return pose;
}
