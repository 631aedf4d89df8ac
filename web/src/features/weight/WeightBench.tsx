import Box from "@mui/material/Box";
import { useState } from "react";
import { setLooks } from "../../desk/viewing";
import { commit, here } from "../../desk/steps";
import { active, canChange, desk, type Member, useDesk } from "../../desk/store";
import { balanceNow, weigh } from "../../desk/weight";
import { Tried } from "../../desk/widgets/Tried";
import { Answers } from "./Answers";
import { AlertList } from "../../desk/widgets/AlertList";
import { type AnyEdit, type Balance as Found, plantsOf } from "../../model/types";
import { type Limit, LIMITS, ROW_LABELS, ROWS, usualWeighing } from "../../model/weighing";
import { Fall } from "./Fall";
import { Flights } from "./Flights";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tabs } from "../../ui/Tabs";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { useTab } from "../../ui/useTab";

const TABS = { Balance, Alerts: WeightAlerts, Answers, Fall, Shown };

/** The Weight bench: how the figure stands and moves, what bears it, what no ground could give, and where it points. */
export function WeightBench() {
  const member = useDesk((s) => active(s));
  const alerts = useDesk((s) => s.faults.weight?.length ?? 0);
  const [tab, setTab] = useTab<keyof typeof TABS>("weight", "Balance");
  if (!member) return null;
  if (member.prop)
    return (
      <Box sx={{ p: 1.5 }}>
        A thing weighs on who carries it: choose a figure. What it weighs is set on its page, at Weight.
      </Box>
    );
  const Tab = TABS[tab];
  return (
    <Tabs
      label="Weight"
      tabs={Object.keys(TABS) as (keyof typeof TABS)[]}
      tab={tab}
      onTab={setTab}
      counts={{ Alerts: alerts }}
      testId="weight-bench"
    >
      <Tab member={member} />
    </Tabs>
  );
}

function Balance({ member }: { member: Member }) {
  const balance = useDesk((s) => balanceNow(s));
  useDesk((s) => s.posed);
  return (
    <>
      <Stands member={member} balance={balance} />
      <FootToFoot member={member} />
      <Flights member={member} />
      <Moves balance={balance} />
      <Points balance={balance} />
    </>
  );
}

function Stands({ member, balance }: { member: Member; balance: Found | null }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  if (!balance) return <Section title="Balance">Weighing the figure…</Section>;
  const { margin, bearing } = balance;
  const out = margin !== null && margin < 0;
  const shares = Object.entries(bearing).sort((a, b) => b[1] - a[1]);
  const shift = (onto: string): AnyEdit => ({
    kind: "weight",
    frame,
    onto,
    keying: desk().keying,
    shape: desk().shape,
  });
  return (
    <Section title="Balance" hint={`at ${frame}`}>
      <Box
        role="status"
        data-testid="margin"
        sx={{ fontSize: 15, fontWeight: 700, color: out ? ink.red : ink.ink, fontVariantNumeric: "tabular-nums" }}
      >
        {margin === null
          ? "In the air: nothing bears it"
          : `${Math.abs(margin * 100).toFixed(1)} cm ${out ? "outside: it would fall" : "inside what bears it"}`}
      </Box>
      {shares.map(([control, share]) => (
        <Box key={control} sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 28 }}>
          <Box component="span" sx={{ flex: 1, fontSize: 12.5 }}>
            {member.controls.get(control)?.label ?? control}
          </Box>
          <Box aria-hidden sx={{ width: 70, height: 8, bgcolor: ink.floor, borderRadius: 1 }}>
            <Box sx={{ width: `${share * 100}%`, height: "100%", bgcolor: ink.blue, borderRadius: 1 }} />
          </Box>
          <Box
            component="span"
            data-share={control}
            sx={{ width: 44, textAlign: "right", fontSize: 12.5, whiteSpace: "nowrap" }}
          >
            {Math.round(share * 100)} %
          </Box>
          <Shift
            label="over it"
            title={`Bring the weight over the ${member.controls.get(control)?.label}`}
            edit={shift(control)}
            disabled={!editable}
          />
        </Box>
      ))}
      {margin !== null && (
        <Line>
          <Shift
            label="Over what bears it"
            title="The hips are brought so that the weight is inside; feet and hands that bear stay"
            edit={shift("")}
            disabled={!editable}
          />
        </Line>
      )}
      <Box sx={{ color: ink.faint, fontSize: 12 }}>
        While the pointer is on a button, the stage shows how it would be.
      </Box>
    </Section>
  );
}

/** A shift of the weight: seen while it is pointed at, made when clicked. */
function Shift(p: { label: string; title: string; edit: AnyEdit; disabled: boolean }) {
  return <Tried {...p} said={`${p.label}: ${p.title}`} />;
}

/** By how much hips tilt and turn in a slow step (common practice, no source), radians. */
const HIPS = { tilt: (4 * Math.PI) / 180, turn: (6 * Math.PI) / 180 };

/** The weight brought over the foot that stays before the other one leaves, over the chosen columns or what plays. */
function FootToFoot({ member }: { member: Member }) {
  const columns = useDesk((s) => s.columns);
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const [hips, setHips] = useState(false);
  const planted = member.rig.limbs.some((limb) => limb.kind === "leg" && plantsOf(member.clip, limb.ik).length);
  if (!planted) return null;
  const chosen = columns.length > 1;
  const first = chosen ? Math.min(...columns) : shot.play_start;
  const last = chosen ? Math.max(...columns) : shot.play_end;
  const edit: AnyEdit = { kind: "over feet", first, last, free: columns, ...(hips ? HIPS : { tilt: 0, turn: 0 }) };
  return (
    <Section title="From foot to foot" hint={chosen ? "over the chosen columns" : "over what plays"}>
      <Line>
        <Shift
          label={`Over the next foot, ${first} to ${last}`}
          title="The body is over the foot that stays before the other one leaves; plants stay, and poses with a name"
          edit={edit}
          disabled={!editable}
        />
      </Line>
      <Line>
        <SmallButton
          disabled={!editable}
          title="For quick steps: the body goes so that its feet press inside of what bears it; plants stay"
          onClick={() =>
            void commit({ kind: "borne in motion", first, last, free: columns }, { ...here(), casting: member.id })
          }
        >
          {`Borne in motion, ${first} to ${last}`}
        </SmallButton>
      </Line>
      <Tick label="Hips tilt and turn with it, the chest against them" on={hips} onChange={setHips} />
    </Section>
  );
}

const OUTSIDE = "outside: no ground could bear it so";

/** How its weight moves at the playhead. */
function Moves({ balance }: { balance: Found | null }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const moving = balance?.moving;
  if (!balance || !moving) return null;
  const { margin, force, speed, load, kilograms } = moving;
  const high = balance.centre[1].toFixed(2);
  const out = margin !== null && margin < 0;
  return (
    <Section title="In motion" hint={`at ${frame}`}>
      <Box data-testid="moving-margin" sx={{ color: out ? ink.red : ink.ink, fontSize: 13, fontWeight: 700 }}>
        {margin === null
          ? "Nothing bears it"
          : `${Math.abs(margin * 100).toFixed(1)} cm ${out ? OUTSIDE : "inside what bears it"}`}
      </Box>
      <Box sx={{ fontSize: 12.5 }}>
        Presses with {force.toFixed(2)} of its weight. Its mass is {high} m high and goes at {speed.toFixed(2)} m/s.
      </Box>
      {load > 0 && (
        <Box sx={{ fontSize: 12.5 }} data-testid="load">
          Carries {load.toFixed(1)} of {kilograms.toFixed(1)} kg.
        </Box>
      )}
    </Section>
  );
}

function Points({ balance }: { balance: Found | null }) {
  if (!balance || (balance.chest === null && balance.face === null)) return null;
  const { chest, face } = balance;
  const way = (angle: number) => {
    const degrees = Math.round((angle * 180) / Math.PI);
    return degrees === 0 ? "straight" : `${Math.abs(degrees)}° to its ${degrees > 0 ? "left" : "right"}`;
  };
  return (
    <Section title="Where it points" hint="seen from the top">
      {chest !== null && (
        <Box sx={{ fontSize: 12.5 }} data-testid="twist">
          Chest against hips: {way(chest)}
        </Box>
      )}
      {face !== null && <Box sx={{ fontSize: 12.5 }}>Face against chest: {way(face)}</Box>}
    </Section>
  );
}

/** What no ground could give, no fall would do and no hand could hold; and beyond what that is told. */
function WeightAlerts(_: { member: Member }) {
  const alerts = useDesk((s) => s.faults.weight ?? null);
  const limits = useDesk((s) => s.weighing.limits);
  const set = (name: Limit, value: number) => weigh({ limits: { ...limits, [name]: value } });
  return (
    <>
      <AlertList
        alerts={alerts}
        of="weight"
        none="It is borne by what bears it, falls as things fall, lands softly enough, and carries what it can."
      />
      <Section title="Told beyond" hint="yours, in all shots">
        {(Object.keys(LIMITS) as Limit[]).map((name) => {
          const { label, unit, digits, by, low, high } = LIMITS[name];
          const value = limits[name] * by;
          return (
            <Box
              key={name}
              sx={{ display: "grid", gridTemplateColumns: "1fr 64px 88px", gap: 0.75, alignItems: "center" }}
            >
              <Word>{label}</Word>
              <NumberField
                label={`${label}${unit ? `, ${unit}` : ""}`}
                value={value}
                digits={digits}
                step={0}
                low={low}
                high={high}
                onType={(typed, more) => {
                  const wished = Math.min(Math.max(more ? value + typed : typed, low), high);
                  set(name, name === "frames" ? Math.round(wished) : wished / by);
                }}
              />
              <Word>{unit}</Word>
            </Box>
          );
        })}
        <Line>
          <SmallButton onClick={() => weigh({ limits: usualWeighing().limits })}>As usual</SmallButton>
        </Line>
      </Section>
    </>
  );
}

function Shown(_: { member: Member }) {
  const looks = useDesk((s) => s.looks);
  const rows = useDesk((s) => s.weighing.rows);
  return (
    <>
      <Section title="On the strip">
        <Box sx={{ display: "grid" }}>
          {ROWS.map((row) => (
            <Tick
              key={row}
              label={ROW_LABELS[row]}
              on={rows[row]}
              onChange={(on) => weigh({ rows: { ...rows, [row]: on } })}
            />
          ))}
        </Box>
      </Section>
      <Section title="On the stage">
        <Box sx={{ display: "grid" }}>
          <Tick label="Mass and what bears it" on={looks.weight} onChange={(weight) => setLooks({ weight })} />
          <Tick label="Way of the mass, frame by frame" on={looks.fall} onChange={(fall) => setLooks({ fall })} />
          <Tick label="Rays of face and gaze" on={looks.rays} onChange={(rays) => setLooks({ rays })} />
          <Tick label="Lines across chest and hips" on={looks.across} onChange={(across) => setLooks({ across })} />
        </Box>
      </Section>
    </>
  );
}
