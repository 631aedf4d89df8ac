// Pulling the body by its parts: which part a control takes hold of, what is gripped, and what a pull asks for.
import { isOf, plantable, shownPlants } from "./contacts";
import { say } from "./steps";
import { active, desk, type DeskState, type Grip, type Leanings, type Member, modeOf, setDesk } from "./store";
import type { Grade, Message, Part } from "../model/types";

const GRADES: Grade[] = ["loose", "firm", "fast"];

export const partOf = (member: Member, control: string): Part | undefined =>
  member.rig.parts.find((part) => part.controls.includes(control));

/** The control by which a part is taken hold of in its limb's present mode. */
export function holdOf(member: Member, part: Part): string {
  const to = part.controls.find((name) => {
    const control = member.controls.get(name);
    return control?.mode === "ik" && control.kind === "ik" && modeOf(member, control.limb) === "ik";
  });
  return to ?? part.controls[0];
}

/** The parts that can be pulled and gripped on the stage: ends and middles of limbs, hips, chest, neck and head; tips
 * of chains, and the joints of one that is selected or held.
 */
export function handles(member: Member): Part[] {
  const { selection } = desk();
  const grips = gripsOf(member);
  return member.rig.parts.filter((part) => {
    if (part.chain) {
      const chain = member.rig.chains.find((one) => one.name === part.chain)!;
      return part.name === chain.ik || part.name in grips || selection.some((name) => isOf(member, chain, name));
    }
    const last = part.name.slice(part.name.lastIndexOf(".") + 1);
    return !["upper", "collar"].includes(last) && part.name !== "hips" && !/^(spine|neck)/.test(part.name);
  });
}

const atFirst = new WeakMap<Member["rig"], Record<string, Grip>>();

/** What a figure grips before anybody has said anything: its feet are held fast; of one without feet the tips of its
 * chains; a thing has neither. */
function firstGrips({ rig }: Member): Record<string, Grip> {
  let found = atFirst.get(rig);
  if (!found) {
    const feet = rig.parts.filter((part) => part.name.endsWith(".foot"));
    const tips = rig.parts.filter((part) => rig.chains.some((chain) => chain.ik === part.name));
    found = Object.fromEntries(
      (feet.length ? feet : tips).map(({ name, turn }) => [name, { grade: "fast", place: true, turn } as const]),
    );
    atFirst.set(rig, found);
  }
  return found;
}

/** What is gripped of a figure: the same object as long as nobody changes it. */
export const gripsOf = (member: Member, s: DeskState = desk()): Record<string, Grip> =>
  s.grips[member.id] ?? firstGrips(member);

/** Parts that a plant holds here: they are fast, whatever else is gripped. */
export function plantedParts(member: Member, frame = desk().frame): Map<string, { start: number; end: number }> {
  const found = new Map<string, { start: number; end: number }>();
  for (const limb of plantable(member))
    for (const span of shownPlants(member, limb)) {
      const part = span.start <= frame && frame <= span.end ? partOf(member, limb.ik) : undefined;
      if (part) found.set(part.name, span);
    }
  return found;
}

export function setGrip(member: Member, part: Part, grip: Grip | null) {
  const now = { ...gripsOf(member) };
  if (grip) now[part.name] = grip;
  else delete now[part.name];
  setDesk({ grips: { ...desk().grips, [member.id]: now } });
}

/** From no grip to loose, firm, fast, and back to none. */
export function nextGrade(member: Member, part: Part) {
  const grip = gripsOf(member)[part.name];
  const at = grip ? GRADES.indexOf(grip.grade) + 1 : 0;
  const kept = grip ?? { place: part.place, turn: part.turn };
  setGrip(member, part, at < GRADES.length ? { ...kept, grade: GRADES[at] } : null);
}

/** Takes the next grade for the parts that are selected. */
export function gripSelected() {
  const member = active();
  if (!member) return;
  const parts = [...new Set(desk().selection.map((name) => partOf(member, name)))].filter((part) => !!part);
  if (!parts.length) return say("Select a hand, a foot, the head or another part of the body to grip it.");
  const planted = plantedParts(member);
  for (const part of parts) {
    if (planted.has(part.name)) say(`${part.label} is planted here, so it is held fast already.`);
    else nextGrade(member, part);
  }
}

/** While something is pulled: lets that grip go which holds it back most, or else the weakest. Says which. */
export function dropGrip(): boolean {
  const member = active();
  if (!member) return false;
  const grips = gripsOf(member);
  const pulled = new Set(desk().selection.map((name) => partOf(member, name)?.name));
  const held = Object.keys(grips).filter((name) => !pulled.has(name));
  if (!held.length) return false;
  const gave = new Map(desk().said?.gave?.map((g) => [g.part, g.metres]));
  held.sort(
    (a, b) =>
      (gave.get(b) ?? 0) - (gave.get(a) ?? 0) || GRADES.indexOf(grips[a].grade) - GRADES.indexOf(grips[b].grade),
  );
  const part = member.rig.parts.find((p) => p.name === held[0])!;
  setGrip(member, part, null);
  say(`Let go: ${part.label}.`);
  return true;
}

/** Takes up the pull: at first the feet of any figure are held fast, which is plain to see and let go with a key. */
export const takeUpPull = () => setDesk({ tool: "pull", said: null });

/** Whether a figure has feet; one without them holds on to the ground with the tips of its chains, if it has any. */
export const onFeet = ({ rig }: Member) => !rig.chains.length || rig.parts.some((part) => part.name.endsWith(".foot"));

export const gripFeet = (member: Member) =>
  setDesk({ grips: { ...desk().grips, [member.id]: { ...gripsOf(member), ...firstGrips(member) } } });

export const letAllGo = (member: Member) => setDesk({ grips: { ...desk().grips, [member.id]: {} } });
export const lean = (which: keyof Leanings, to: number) => setDesk({ leanings: { ...desk().leanings, [which]: to } });

/** The parts that are placed, those that are pulled now among them. */
export function placedParts(member: Member, controls: string[] = []): Record<string, { turn: boolean }> {
  const { few } = desk();
  const parts = few?.casting === member.id ? { ...few.parts } : {};
  for (const name of controls) {
    const part = partOf(member, name);
    if (part && !parts[part.name]) parts[part.name] = { turn: part.name !== "body" && part.turn && part.place };
  }
  return parts;
}

/** Every part held fast but those of the limbs that are pulled, which turn alone. */
function allBut(member: Member, controls: string[]) {
  const limbs = new Set(controls.map((name) => member.controls.get(name)?.limb));
  return member.rig.parts
    .filter((part) => !part.controls.some((name) => limbs.has(member.controls.get(name)?.limb)))
    .map((part) => ({ part: part.name, grade: "fast" as const, place: true, turn: true }));
}

/** What the server is asked for the present state of a pull. */
export function pullOf(member: Member, controls: string[], offset: number[], alone = false): Message {
  const { leanings, few } = desk();
  if (alone) return { do: "pull", controls, offset, grips: allBut(member, controls), leanings };
  if (few) {
    const targets = Object.entries(placedParts(member, controls)).map(([part, { turn }]) => ({ part, turn }));
    return { do: "few", controls, offset, targets, leanings };
  }
  const grips = Object.entries(gripsOf(member)).map(([part, grip]) => ({ part, ...grip }));
  return { do: "pull", controls, offset, grips, leanings };
}

/** What gave, in words, for beside the pointer. */
export function gaveInWords(s: DeskState = desk()): string {
  if (!s.said?.gave) return "";
  if (s.said.whole) return "nothing is gripped: the whole figure moves";
  return s.said.gave
    .map((g) => {
      const far =
        g.metres > 0.0005 ? `${(g.metres * 1000).toFixed(0)} mm` : `${((g.radians * 180) / Math.PI).toFixed(0)}°`;
      return g.grade === "pulled" ? `${g.label} lags by ${far}` : `${g.label} gave by ${far}`;
    })
    .join(", ");
}

/** What a pull is called in the history. */
export function pullName(): string {
  const member = active();
  const names = new Set(desk().selection.map((name) => member && partOf(member, name)?.label));
  const what = names.size > 1 ? `${names.size} parts` : ([...names][0] ?? "the body");
  return desk().few ? `Pose from few: ${what}` : `Pull ${what}`;
}

/** What was pulled is a placed part from now on, where a pose is made of few. */
export function keepPlaced() {
  const member = active();
  const { few, selection } = desk();
  if (member && few) setDesk({ few: { casting: member.id, parts: placedParts(member, selection) } });
}
