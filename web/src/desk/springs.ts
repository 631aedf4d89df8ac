// Springs: rows of joints that swing after what carries them.
import { stretchChosen } from "./life";
import { chainOf } from "./posing";
import { commit, here } from "./steps";
import { desk, type Member } from "./store";
import { type Spring, springsOf } from "../model/types";

/** A spring with the control of the row that swings. */
export interface Springing {
  control: string;
  span: Spring;
}

export const springsAt = (member: Member, frame: number): Springing[] =>
  springsOf(member.clip).filter(({ span }) => span.start <= frame && frame <= span.end);

/** What of the selection could swing: chains, and joints without a role in the body. */
export const hanging = (member: Member): string[] =>
  desk().selection.filter((name) => {
    const control = member.controls.get(name);
    return control && (control.kind === "chain" || (["extra", "part"].includes(control.kind) && control.can_turn));
  });

/** Everything about somebody that hangs: chains whole, other joints by themselves. */
export function allThatHangs(member: Member): string[] {
  const { chains, controls } = member.rig;
  const alone = controls.filter((c) => c.kind === "extra" && c.can_turn && !chainOf(member, c.name));
  return [...chains, ...alone].map((c) => c.name);
}

const DEGREE = Math.PI / 180;
const CALM = { droop: 0, air: 0.5, wind_x: 0, wind_z: 0, body: true, ground: true, strength: 1 };
/** As a new one begins: cloth and tails, and what sits on a body by one joint, as a cap or a coat tail does. */
const LONG = { period: 14, period_tip: 10, rests: 14, rests_tip: 10, weight: 0.3, limit: 75 * DEGREE };
const SHORT = { period: 8, period_tip: 8, rests: 8, rests_tip: 8, weight: 0, limit: 20 * DEGREE };

/** On chains and on single joints, each as they usually swing. */
export async function laySprings(member: Member, controls: string[]): Promise<boolean> {
  let ok = true;
  for (const [long, usual] of [
    [true, LONG],
    [false, SHORT],
  ] as const) {
    const mine = controls.filter((name) => (member.controls.get(name)?.kind === "chain") === long);
    if (!mine.length || !ok) continue;
    const laid = { controls: mine, at: null, ...stretchChosen(), ...CALM, ...usual, ease_in: 0, ease_out: 0 };
    ok = await commit({ kind: "spring", ...laid, muted: false }, { ...here(), casting: member.id });
  }
  return ok;
}

/** What a change of a spring is made of. */
export function springEdit({ control, span }: Springing, now: Partial<Spring>) {
  const all = { ...span, ...now };
  const { start, end, period, period_tip, rests, rests_tip, droop, weight, air, wind_x, wind_z, limit } = all;
  const { body, ground, strength, ease_in, ease_out, muted } = all;
  const swings = { start, end, period, period_tip, rests, rests_tip, droop, weight, air, wind_x, wind_z, limit };
  return {
    kind: "spring" as const,
    controls: [control],
    at: span.start,
    ...swings,
    body,
    ground,
    strength,
    ease_in,
    ease_out,
    muted,
  };
}

export const changeSpring = (member: Member, springing: Springing, now: Partial<Spring>) =>
  commit(springEdit(springing, now), { ...here(), casting: member.id });
