import { Choice } from "../../ui/Choice";
import { desk, type Member, useDesk } from "../store";

/** What something is tied to: the world, or a control of one of the cast (figure 0: the character itself). */
export interface OwnerOf {
  figure: number;
  control: string;
}

export const WORLD: OwnerOf = { figure: 0, control: "" };

/** Which of the cast, and which of its controls. Of a prop the whole thing is offered first, of a figure its hands. */
export function Owner({
  member,
  value,
  onChange,
  own,
  world,
  first = usual,
}: {
  member: Member;
  value: OwnerOf;
  onChange: (owner: OwnerOf) => void;
  /** Whether its own controls are among them. */
  own: boolean;
  /** What the world is called. */
  world: string;
  /** Which of somebody's controls is meant first. */
  first?: (picked: Member, thing: Member) => string;
}) {
  const cast = useDesk((s) => s.cast);
  const others = cast.filter((m) => own || m.id !== member.id);
  const number = (m: Member) => (m.id === member.id ? 0 : m.id);
  const whose = value.control ? others.find((m) => number(m) === value.figure) : undefined;
  const ends = new Set(whose?.rig.limbs.map((l) => l.fk[2]));
  const controls = (whose?.rig.controls ?? []).filter((c) => c.posed && c.kind !== "pole" && !ends.has(c.name));
  return (
    <>
      <Choice
        label="Carried by"
        value={whose ? String(number(whose)) : "world"}
        options={[
          { value: "world", label: world },
          ...others.map((m) => ({ value: String(number(m)), label: m.id === member.id ? `${m.name} (own)` : m.name })),
        ]}
        onChange={(v) => {
          const picked = others.find((m) => String(number(m)) === v);
          onChange(picked ? { figure: number(picked), control: first(picked, member) } : WORLD);
        }}
      />
      {whose && (
        <Choice
          label="By its"
          value={value.control}
          options={controls.map((c) => ({ value: c.name, label: c.label }))}
          onChange={(control) => onChange({ ...value, control })}
        />
      )}
    </>
  );
}

/** What of somebody most likely carries a thing: the hand that is nearest to it now; of a prop all of it. */
function usual(member: Member, thing: Member): string {
  const { frame, selection } = desk();
  const name = selection.find((one) => thing.controls.has(one)) ?? thing.rig.controls[0].name;
  const number = thing.rig.controls.findIndex((c) => c.name === name);
  const [x, y, z] = thing.motion.controlAt(frame, number);
  const far = (limb: string) => {
    const part = member.rig.parts.find((p) => p.name === `${limb}.hand`);
    if (!part) return Infinity;
    const [a, b, c] = member.motion.jointAt(frame, part.joint);
    return Math.hypot(a - x, b - y, c - z);
  };
  const arms = member.rig.limbs.filter((l) => l.kind === "arm");
  const hand = arms.sort((a, b) => far(a.name) - far(b.name))[0];
  return hand ? hand.ik : member.rig.controls[0].name;
}

/** An owner in words. */
export function ownerSaid(member: Member, cast: Member[], { figure, control }: OwnerOf, world = "the world"): string {
  if (!control) return world;
  const whose = figure === 0 ? member : cast.find((m) => m.id === figure);
  if (!whose) return "one who does not play any more";
  const label = whose.controls.get(control)?.label ?? control;
  return whose.id === member.id
    ? label
    : whose.prop && control === whose.rig.controls[0].name
      ? whose.name
      : `${whose.name}'s ${label}`;
}
