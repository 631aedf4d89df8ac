import { useState } from "react";
import { commitTogether } from "../../desk/company";
import { unlessGone } from "../../desk/after";
import { select } from "../../desk/selecting";
import { type Member, modeOf, useDesk } from "../../desk/store";
import { keyFramesOf } from "../../model/columns";
import type { AnyEdit, Limb } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { useInks } from "../../ui/look";

const armsOf = (member: Member) => member.rig.limbs.filter((limb) => limb.kind === "arm");
const rootOf = (member: Member) => member.rig.controls[0].name;

/** Where a control stands now. */
function placeOf(member: Member, name: string): [number, number, number] {
  const at = 12 * member.rig.controls.findIndex((control) => control.name === name);
  const [x, y, z] = member.pose.controls.slice(at, at + 3);
  return [x, y, z];
}
const far = (a: number[], b: number[]) => Math.hypot(...a.map((n, axis) => n - b[axis]));

/** A thing held by both hands in one step: one carries it, the other rests on it by IK. */
export function BothHands({ member }: { member: Member }) {
  const ink = useInks();
  const cast = useDesk((s) => s.cast);
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const columns = useDesk((s) => s.columns);
  const selection = useDesk((s) => s.selection);
  useDesk((s) => s.posed);
  const figures = cast.filter((one) => !one.prop && armsOf(one).length > 1);
  const things = cast.filter((one) => one.prop && one.rig.controls[0].posed);
  const [thingId, setThing] = useState<number | null>(null);
  const [carrier, setCarrier] = useState("");
  const [until, setUntil] = useState<number | null>(null);
  const holder = member.prop
    ? nearest(figures, (one) => far(placeOf(one, armsOf(one)[0].ik), placeOf(member, rootOf(member))))
    : member;
  const thing = member.prop
    ? member
    : (things.find((one) => one.id === thingId) ??
      nearest(things, (one) =>
        far(placeOf(one, rootOf(one)), placeOf(member, armsOf(member)[0]?.ik ?? rootOf(member))),
      ));
  if (!holder || !thing || armsOf(holder).length < 2) return null;
  const place = placeOf(thing, rootOf(thing));
  const hands = armsOf(holder);
  // A hand that is chosen here or selected, on the body map say; else the one that is nearest.
  const picked =
    member === holder
      ? hands.find((limb) => selection.some((n) => member.controls.get(n)?.limb === limb.name))
      : undefined;
  const carries =
    hands.find((limb) => limb.name === carrier) ??
    picked ??
    nearest(hands, (limb) => far(placeOf(holder, limb.fk[2]), place))!;
  const start = columns.length > 1 ? columns[0] : frame;
  const end = columns.length > 1 ? columns[columns.length - 1] : Math.max(until ?? shot.end, start);
  const belongs = { start, end, ties: "both" as const, weight: 1, ease_in: 0, ease_out: 0 };

  function hold(one: Limb) {
    const [rests] = hands.filter((limb) => limb !== one);
    const [whose, what] = [holder!, thing!];
    const to = modeOf(whose, one.name) === "ik" ? one.ik : one.fk[2];
    // What the resting hand does by keys of its own while it is held would take it off the thing.
    const later = [...keyFramesOf(whose, new Set([rests.ik]))]
      .filter((f) => f > start && f <= end)
      .sort((a, b) => a - b);
    const steps: { member: Member; edit: AnyEdit }[] = [
      {
        member: whose,
        edit: { kind: "limb", frame: start, limb: rests.name, to: "ik", keying: "control", anyway: true },
      },
      { member: what, edit: { kind: "belong", controls: [rootOf(what)], figure: whose.id, to, ...belongs } },
      { member: whose, edit: { kind: "belong", controls: [rests.ik], figure: what.id, to: rootOf(what), ...belongs } },
    ];
    if (later.length) steps.push({ member: whose, edit: { kind: "delete", frames: later, controls: [rests.ik] } });
    void commitTogether(steps, true).then(unlessGone(() => select([rests.ik], "set", whose.id)));
  }

  return (
    <Section title="Held by both hands" hint="one carries it, the other rests on it">
      {!member.prop && things.length > 1 && (
        <Line>
          <Choice
            label="Thing"
            show
            value={String(thing.id)}
            options={things.map((one) => ({ value: String(one.id), label: one.name }))}
            onChange={(id) => setThing(Number(id))}
          />
        </Line>
      )}
      <Line>
        <Word>{thing.name} is carried by the</Word>
        {hands.map((limb) => (
          <SmallButton
            key={limb.name}
            on={limb === carries}
            onClick={() => setCarrier(limb.name)}
            sx={limb === carries ? undefined : { color: limb.name.endsWith("L") ? ink.left : ink.right }}
          >
            {limb.label} hand
          </SmallButton>
        ))}
      </Line>
      <Line>
        <Word>from {start} to</Word>
        {columns.length > 1 ? (
          <Word>{end} (the chosen columns)</Word>
        ) : (
          <Whole label="Held until" value={end} width={48} onChange={setUntil} />
        )}
        <SmallButton onClick={() => hold(carries)}>{holder.name} holds it</SmallButton>
      </Line>
    </Section>
  );
}

function nearest<T>(all: T[], how: (one: T) => number): T | undefined {
  return all.length ? all.reduce((a, b) => (how(b) < how(a) ? b : a)) : undefined;
}
