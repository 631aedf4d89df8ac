// Posing and keying at the playhead, and edits that are tried before they are made.
import { isOf } from "./contacts";
import { showFrame, showPose } from "./frames";
import { withLayer } from "./layers";
import { socket } from "./opening";
import { watch, watched } from "./paths";
import { selected } from "./selecting";
import { commit, here, type MadeOn, say } from "./steps";
import { commitFor, meantBy } from "./company";
import { active, canChange, desk, type Member, setDesk } from "./store";
import { type AnyEdit, type Chain, type Kind } from "../model/types";

export const setValues = (values: Record<string, number>, what = "", place = here(), on: MadeOn = {}) =>
  commit(
    {
      kind: "pose",
      frame: place.frame,
      values,
      keying: desk().keying,
      kinds: desk().kinds,
      shape: desk().shape,
      what,
    },
    place,
    on,
  );

const keyOf = (controls: string[] | null): AnyEdit => {
  const { frame, kinds, shape } = desk();
  return { kind: "key", frame, controls, kinds, shape };
};
/** Keys what is selected, of the active one and of those that are meant as well. */
export function keySelection() {
  const who = meantBy(false);
  if (!who.length) return say("Select the controls to key, or key the whole character.");
  return commitFor(who, ({ controls }) => keyOf(controls));
}
export const keyWhole = () => commitFor(meantBy(true), () => keyOf(null));
/** Everybody and everything that plays, on one frame, in one step. */
export const keyAllThatPlays = () =>
  commitFor(
    desk().cast.map((member) => ({ member, controls: null })),
    () => keyOf(null),
  );
export const dropPending = () => commit({ kind: "drop", frame: desk().frame });

export function reset(whole: boolean, kinds: Kind[] = ["place", "turn", "extra"]) {
  const { frame, keying, shape } = desk();
  const who = meantBy(whole);
  if (!who.length) return say("Select what should go back to rest, or reset all.");
  return commitFor(who, ({ controls }) => ({ kind: "reset", frame, controls, kinds, keying, shape }));
}

export const switchLimb = (limb: string, to: "ik" | "fk") =>
  commit({ kind: "limb", frame: desk().frame, limb, to, keying: desk().keying, anyway: false });

/** The chain that a control is of: its sliders, its tip, its middle or one of its joints. */
export const chainOf = (member: Member, control: string): Chain | undefined =>
  member.rig.chains.find((chain) => isOf(member, chain, control));

/** Whether a chain reaches for its tip now. */
export const reaches = (member: Member, chain: Chain): boolean =>
  member.pose.values[member.channels.get(chain.switch)!] > 0.5;

export const switchChain = (member: Member, chain: Chain) =>
  commit({
    kind: "chain mode",
    control: chain.name,
    frame: desk().frame,
    to: reaches(member, chain) ? "fk" : "ik",
    keying: desk().keying,
    shape: desk().shape,
    anyway: false,
  });

/** Changes every selected limb's mode, and every selected chain's. */
export function switchSelected() {
  const member = active();
  if (!member) return;
  const chains = new Set(selected().flatMap((c) => chainOf(member, c.name) ?? []));
  for (const chain of chains) void switchChain(member, chain);
  const limbs = new Set(
    selected()
      .map((c) => c.limb)
      .filter(Boolean),
  );
  if (!limbs.size) {
    if (!chains.size) say("Select a control of an arm, a leg or a chain to change it between IK and FK.");
    return;
  }
  for (const limb of limbs) {
    const found = member.rig.limbs.find((l) => l.name === limb)!;
    const number = member.channels.get(found.switch)!;
    const to = member.pose.values[number] > 0.5 ? "fk" : "ik";
    void switchLimb(limb, to).then((ok) => {
      // What has been selected meanwhile stays; of the limb it is what can be moved now.
      if (!ok || desk().activeId !== member.id) return;
      const { selection } = desk();
      const kept = selection.filter((n) => member.controls.get(n)?.limb !== limb || !member.controls.get(n)?.mode);
      if (kept.length < selection.length) setDesk({ selection: [...kept, to === "ik" ? found.ik : found.fk[0]] });
    });
  }
}

/** Raised when a trial is left, so that a late answer is not shown. */
let left = 0;

/** Shows how the pose here would be after an edit, or after it in place of the last step, without making it. */
export function tryEdit(edit: AnyEdit, instead: string | null = null, of = desk().activeId) {
  const member = desk().cast.find((one) => one.id === of);
  if (!member || !canChange() || !socket()?.open) return;
  const trial = left;
  const { revision } = desk();
  const told = instead ? edit : withLayer(edit, member);
  const ask = { do: "try", casting: member.id, frame: desk().frame, edit: told, instead, watch: watch() } as const;
  socket()!.stream(ask, (pose) => {
    // One that was made of it meanwhile, or anything else that was stored, is what is seen by now.
    if (left !== trial || desk().revision !== revision) return;
    watched(pose.said?.paths);
    showPose(pose, member.id);
  });
}

export function leaveTry() {
  left++;
  setDesk({ dragged: null, moved: null });
  void showFrame(desk().frame);
}
