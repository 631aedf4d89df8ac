// Plants: where they show, and what is done to them.
import { Pose } from "../model/motion";
import { playedPlants, type Shown } from "../model/plants";
import { unlessGone } from "./after";
import { go } from "./playing";
import { select } from "./selecting";
import { commit } from "./steps";
import { markPlant } from "./choosing";
import { type Member, desk, setDesk } from "./store";
import { type End, type Plant, plantsOf } from "../model/types";

const KINDS = ["leg", "arm", "chain"];

/** What can be planted: legs before arms, and those before chains. */
export const plantable = (member: Member): End[] =>
  [...member.rig.limbs, ...member.rig.chains].sort((a, b) => KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind));

/** Whether a control is of a limb or a chain. */
export const isOf = (member: Member, end: End, control: string) =>
  "controls" in end
    ? [end.name, end.ik, end.middle, ...end.controls].includes(control)
    : member.controls.get(control)?.limb === end.name;

/** What the end of a limb or a chain is called beside its side. */
export const endWord = (end: End) => (end.kind === "leg" ? "foot" : end.kind === "arm" ? "hand" : `${end.label} tip`);

export const endOf = (end: End) => (end.kind === "chain" ? endWord(end) : `${end.label} ${endWord(end)}`);

/** All plants of a limb as they play. */
export const shownPlants = ({ clip, controls }: Member, limb: End): Shown[] =>
  playedPlants(clip, limb.ik, controls.get(limb.ik)?.other ?? limb.ik);

/** The stored plant that is chosen, if it is still there. */
export function chosenPlant(member: Member, plant = desk().plant): Plant | null {
  return (plant && plantsOf(member.clip, plant.control).find((p) => p.start === plant.start)) || null;
}

/** Chooses a plant, with its limb selected and the playhead inside it. */
export function choosePlant(member: Member, control: string, start: number, at = start) {
  select([control], "set", member.id);
  markPlant({ control, start });
  if (desk().frame !== at) go(at);
}

/** Plants the ends of limbs on the ground, and chooses the first of them. */
export const plantLimbs = (plants: { control: string; start: number; end: number; about: string }[]) =>
  commit({ kind: "plant", plants, release: 0, land: 0, figure: 0, thing: "" }).then(
    unlessGone(() => {
      if (plants.length === 1)
        setDesk({ plant: { control: plants[0].control, start: plants[0].start }, selection: [plants[0].control] });
    }),
  );

export function changePlant(control: string, at: number, plant: Plant, now: Partial<Plant>): Promise<boolean> {
  const { start, end, about, release, land, figure, thing } = { ...plant, ...now };
  return commit({ kind: "replant", control, at, start, end, about, release, land, figure, thing }).then(
    unlessGone(() => markPlant({ control, start })),
  );
}

/** Where a control is at a frame (place, then quaternion), as it was last fetched. */
export function standsAt(member: Member, control: string, frame: number): Float32Array {
  const pose = new Pose(member.motion.counts);
  member.motion.show(frame, pose);
  const number = member.rig.controls.findIndex((c) => c.name === control);
  return pose.controls.slice(number * 12, number * 12 + 8);
}
