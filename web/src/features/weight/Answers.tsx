import Box from "@mui/material/Box";
import { Fragment } from "react";
import {
  answeredBy,
  answerEdit,
  answerEvent,
  type Answering,
  type AnswerKind,
  answerParts,
  answersAt,
  answerTitle,
  blowOn,
  changeAnswer,
  changeGive,
  changeKnock,
  eventOf,
  giveAt,
  giveEdit,
  type Knocking,
  knocksAt,
  useHappenings,
  weighGive,
} from "../../desk/answers";
import { shaken } from "../../desk/life";
import { go } from "../../desk/playing";
import { tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { Size } from "../../desk/widgets/Size";
import { Tried } from "../../desk/widgets/Tried";
import type { AnyEdit, Give, Happening, Knock } from "../../model/types";
import { stored } from "../../model/amounts";
import { NumberField } from "../../ui/NumberField";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

/** What happens to the figure, and how it answers: a landing that gives, a blow that goes through the body. */
export function Answers({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.selection); // on which a blow lands
  const give = giveAt(member, frame);
  const knocks = knocksAt(member, frame);
  const on = shaken(member);
  const name = (control: string) => member.controls.get(control)?.label ?? control;
  return (
    <>
      <Happens member={member} editable={editable} />
      {give && <OneGive key={give.start} member={member} span={give} editable={editable} />}
      {knocks.map((knocking) => (
        <OneKnock
          key={`${knocking.control} ${knocking.span.start}`}
          member={member}
          knocking={knocking}
          name={name(knocking.control)}
          editable={editable}
        />
      ))}
      {answersAt(member, frame).map((one) => (
        <OneAnswer
          key={`${one.kind} ${one.control} ${one.span.start}`}
          member={member}
          one={one}
          name={one.control ? name(one.control) : ""}
          editable={editable}
        />
      ))}
      {!knocks.some(({ control }) => control === on) && (
        <Section title="A blow" hint={`at ${frame}`}>
          <Line>
            <Tried label={`On ${name(on)}`} said={`A blow on ${name(on)}`} edit={blowOn(member)} disabled={!editable} />
          </Line>
          <Said>It lands on what is selected, or on the hips; each next link has it a little later and less.</Said>
        </Section>
      )}
    </>
  );
}

const LABELS: Record<Happening["what"], string> = {
  "take-off": "Take-off",
  landing: "Landing",
  "foot down": "Foot down",
  stop: "Stop",
  "letting go": "Letting go",
};
const OFFERS: Partial<Record<AnyEdit["kind"], string>> = {
  give: "Give",
  "carry-through": "Carry on",
  "foot down": "Slap",
};
const MOST = 40;

function Happens({ member, editable }: { member: Member; editable: boolean }) {
  const frame = useDesk((s) => s.frame);
  const { data: all } = useHappenings(member);
  if (!all) return null;
  return (
    <Section title="What happens" hint={all.length ? "in what plays" : "nothing to answer in what plays"}>
      <Box role="list" aria-label="What happens" sx={{ display: "grid", gap: 0.25, maxHeight: 190, overflowY: "auto" }}>
        {all.slice(0, MOST).map((one) => (
          <Box
            key={`${one.what} ${one.frame} ${one.control}`}
            role="listitem"
            sx={{ display: "flex", alignItems: "center", gap: 0.75, minHeight: 28 }}
          >
            <SmallButton on={one.frame === frame} onClick={() => go(one.frame)} sx={{ minWidth: 40 }}>
              {one.frame}
            </SmallButton>
            <Box component="span" sx={{ flex: 1, fontSize: 12.5 }}>
              {LABELS[one.what]}
              {one.control && `, ${member.controls.get(one.control)?.label ?? one.control}`}
            </Box>
            <Word>{one.speed.toFixed(1)} m/s</Word>
            {one.answers
              .filter((edit) => !answeredBy(member, edit))
              .map((edit) => (
                <Tried
                  key={edit.kind}
                  label={OFFERS[edit.kind] ?? edit.kind}
                  said={`${OFFERS[edit.kind] ?? edit.kind} at the ${one.what} of ${one.frame}`}
                  edit={edit}
                  disabled={!editable}
                />
              ))}
          </Box>
        ))}
      </Box>
      {all.length > MOST && <Word>and {all.length - MOST} more</Word>}
    </Section>
  );
}

function OneGive({ member, span, editable }: { member: Member; span: Give; editable: boolean }) {
  const change = (now: Partial<Give> & { event?: number }) => changeGive(member, span, now);
  const frames = (label: string, key: "there" | "back") => (
    <Count label={label} value={span[key]} disabled={!editable} onDone={(v) => void change({ [key]: v })} />
  );
  return (
    <Section title={span.before ? "Gives before" : "Gives at"} hint={`${eventOf(span)}`}>
      <Size
        size="drop"
        of="give"
        value={span.drop}
        disabled={!editable}
        onTry={(now) => tryEdit(giveEdit(span, { drop: now }))}
        onDone={(v) => weighGive(member, span, v)}
      />
      <Line>
        <Word>{span.before ? "down in" : "deepest after"}</Word>
        {span.before ? frames("Frames down", "back") : frames("Frames until it is deepest", "there")}
        <Word>{span.before ? "up in" : "back in"}</Word>
        {span.before ? frames("Frames up", "there") : frames("Frames back", "back")}
        <Word>frames</Word>
      </Line>
      <Along of={span.of} onLeft={() => void change({ of: "", speed: 0 })} />
      <Ends
        muted={span.muted}
        onMuted={(muted) => void change({ muted })}
        of={{ of: "give", control: "", at: span.start }}
        editable={editable}
      />
    </Section>
  );
}

/** An answer that is laid by numbers of its own. */
function OneAnswer(p: { member: Member; one: Answering; name: string; editable: boolean }) {
  const { one, member, editable } = p;
  const span = one.span as unknown as Record<string, number | string | boolean>;
  const title = p.name ? `${p.name} ${answerTitle(one).toLowerCase()}` : answerTitle(one);
  return (
    <Section title={title} hint={`at ${answerEvent(one)}`}>
      {answerParts(one).map(
        ({ key, label, slid }) =>
          slid && (
            <Size
              key={key}
              size={slid}
              label={label}
              of={answerTitle(one).toLowerCase()}
              value={span[key] as number}
              disabled={!editable}
              onTry={(now) => tryEdit(answerEdit(one, { [key]: now }))}
              onDone={(shown) => changeAnswer(member, one, { [key]: stored(slid, shown) })}
            />
          ),
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 46px 1fr 46px", gap: 0.5, alignItems: "center" }}>
        {answerParts(one)
          .filter(({ slid }) => !slid)
          .map(({ key, label }) => (
            <Fragment key={key}>
              <Word>{label}</Word>
              <NumberField
                label={`${label}, ${answerTitle(one).toLowerCase()}`}
                value={span[key] as number}
                digits={key === "late" ? 1 : 0}
                step={0}
                disabled={!editable}
                onType={(v, by) => {
                  const wished = by ? (span[key] as number) + v : v;
                  void changeAnswer(member, one, { [key]: key === "late" ? wished : Math.round(wished) });
                }}
              />
            </Fragment>
          ))}
      </Box>
      {"of" in one.span && (
        <Along of={one.span.of} onLeft={() => void changeAnswer(member, one, { of: "", speed: 0 })} />
      )}
      <Ends
        muted={one.span.muted}
        onMuted={(muted) => void changeAnswer(member, one, { muted })}
        of={{ of: one.kind, control: one.control, at: one.span.start }}
        editable={editable}
      />
    </Section>
  );
}

/** With what an answer goes along; by a click it stays where it is. */
function Along({ of, onLeft }: { of: string; onLeft: () => void }) {
  if (!of) return null;
  return (
    <Line>
      <Tick label={`Goes along with the ${of}`} on onChange={onLeft} />
    </Line>
  );
}

const WAYS = [
  ["aside", "mm"],
  ["forth", "mm"],
  ["up", "mm"],
  ["nod", "°"],
  ["twist", "°"],
  ["tilt", "°"],
] as const;
const SCALE = { mm: 1000, "°": 180 / Math.PI };

function OneKnock(p: { member: Member; knocking: Knocking; name: string; editable: boolean }) {
  const { span, control } = p.knocking;
  const change = (now: Partial<Knock>) => changeKnock(p.member, p.knocking, now);
  // No spine gives way to what goes up and down.
  const trunk = ["trunk", "body"].includes(p.member.controls.get(control)?.kind ?? "");
  return (
    <Section title={`A blow on ${p.name}`} hint={`at ${span.start}`}>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 50px 26px 1fr 50px 24px", gap: 0.5, alignItems: "center" }}>
        {WAYS.filter(([way]) => way !== "up" || !trunk).map(([way, unit]) => (
          <Number
            key={way}
            label={way[0].toUpperCase() + way.slice(1)}
            unit={unit}
            value={span[way] * SCALE[unit]}
            disabled={!p.editable}
            onDone={(v) => void change({ [way]: v / SCALE[unit] })}
          />
        ))}
        <Number
          label="A link"
          unit="%"
          value={span.factor * 100}
          disabled={!p.editable}
          onDone={(v) => void change({ factor: Math.min(Math.max(v / 100, 0), 1) })}
        />
      </Box>
      <Line>
        <Word>there in</Word>
        <Count
          label="Frames until it is there"
          value={span.there}
          disabled={!p.editable}
          onDone={(there) => void change({ there, back: Math.max(span.back, 3 * there) })}
        />
        <Word>back in</Word>
        <Count
          label="Frames back from the blow"
          value={span.back}
          disabled={!p.editable}
          onDone={(back) => void change({ back })}
        />
        <Word>frames</Word>
      </Line>
      <Ends
        muted={span.muted}
        onMuted={(muted) => void change({ muted })}
        of={{ of: "knock", control, at: span.start }}
        editable={p.editable}
      />
    </Section>
  );
}

function Count(p: { label: string; value: number; disabled: boolean; onDone: (value: number) => void }) {
  return (
    <Box sx={{ width: 40 }}>
      <NumberField
        label={p.label}
        value={p.value}
        digits={0}
        step={0}
        low={1}
        high={240}
        disabled={p.disabled}
        onType={(v, by) => p.onDone(Math.min(Math.max(Math.round(by ? p.value + v : v), 1), 240))}
      />
    </Box>
  );
}

function Number(p: { label: string; unit: string; value: number; disabled: boolean; onDone: (value: number) => void }) {
  return (
    <>
      <Word>{p.label}</Word>
      <NumberField
        label={`${p.label} of the blow`}
        value={p.value}
        digits={p.unit === "mm" ? 0 : 1}
        step={0}
        disabled={p.disabled}
        onType={(v, by) => p.onDone(by ? p.value + v : v)}
      />
      <Word>{p.unit}</Word>
    </>
  );
}

function Ends(p: {
  muted: boolean;
  onMuted: (muted: boolean) => void;
  of: { of: "give" | "knock" | AnswerKind; control: string; at: number };
  editable: boolean;
}) {
  return (
    <Line>
      <Tick label="Counts" on={!p.muted} onChange={(on) => p.onMuted(!on)} />
      <Box sx={{ flex: 1 }} />
      <SmallButton
        disabled={!p.editable}
        onClick={() => void commit({ kind: "answer keys", ...p.of })}
        title="As few keys as hold it, in a layer of their own"
      >
        Into keys
      </SmallButton>
      <SmallButton disabled={!p.editable} onClick={() => void commit({ kind: "drop answer", ...p.of })}>
        Take away
      </SmallButton>
    </Line>
  );
}
