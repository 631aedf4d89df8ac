import { Choice } from "../../ui/Choice";
import { type Member, useDesk } from "../store";

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
}: {
  member: Member;
  value: OwnerOf;
  onChange: (owner: OwnerOf) => void;
  /** Whether its own controls are among them. */
  own: boolean;
  /** What the world is called. */
  world: string;
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
          onChange(picked ? { figure: number(picked), control: usual(picked) } : WORLD);
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

/** What of somebody carries things most often. */
function usual(member: Member): string {
  const hand = member.rig.limbs.find((l) => l.kind === "arm" && l.name.endsWith("R"));
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
