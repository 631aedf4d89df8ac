import Box from "@mui/material/Box";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { setLooks } from "../../desk/viewing";
import { active, canChange, desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit, Balance } from "../../model/types";
import { balanceNow } from "../../desk/weight";
import { Line, Section } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";

/** The Weight bench: how the figure stands, what bears it, and where it points. */
export function WeightBench() {
  const member = useDesk((s) => active(s));
  const balance = useDesk((s) => balanceNow(s));
  useDesk((s) => s.posed);
  if (!member) return null;
  if (member.prop) return <Box sx={{ p: 1.5 }}>A thing has no weight of its own here; choose a figure.</Box>;
  return (
    <Box sx={{ height: "100%", overflow: "auto" }} data-testid="weight-bench">
      <Stands member={member} balance={balance} />
      <Points balance={balance} />
      <Shown />
    </Box>
  );
}

function Stands({ member, balance }: { member: Member; balance: Balance | null }) {
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
          <Box component="span" data-share={control} sx={{ width: 38, textAlign: "right", fontSize: 12.5 }}>
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
  return (
    <SmallButton
      disabled={p.disabled}
      title={p.title}
      aria-label={`${p.label}: ${p.title}`}
      onPointerEnter={() => tryEdit(p.edit)}
      onPointerLeave={leaveTry}
      onFocus={() => tryEdit(p.edit)}
      onBlur={leaveTry}
      onClick={() => void commit(p.edit)}
    >
      {p.label}
    </SmallButton>
  );
}

function Points({ balance }: { balance: Balance | null }) {
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

function Shown() {
  const looks = useDesk((s) => s.looks);
  return (
    <Section title="On the stage">
      <Box sx={{ display: "grid" }}>
        <Tick label="Mass and what bears it" on={looks.weight} onChange={(weight) => setLooks({ weight })} />
        <Tick label="Rays of face and gaze" on={looks.rays} onChange={(rays) => setLooks({ rays })} />
        <Tick label="Lines across chest and hips" on={looks.across} onChange={(across) => setLooks({ across })} />
      </Box>
    </Section>
  );
}
