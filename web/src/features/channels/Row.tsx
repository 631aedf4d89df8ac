// One channel: its dot, its name, its value and its slider.
import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import { pointAt } from "../../desk/choosing";
import { commit, say } from "../../desk/steps";
import { act, beginDrag, cancelDrag, dragging, dragTo, endDrag } from "../../desk/dragging";
import { desk, type Member, valueOf } from "../../desk/store";
import type { Channel, Control } from "../../model/types";
import { shownAs } from "../../model/units";
import { NumberField } from "../../ui/NumberField";
import { useInks } from "../../ui/look";
import { Slider, Tip } from "../../ui/opened";

/** A whole kind that is locked says so in one line. */
export function Locked({ channels }: { channels: Channel[] }) {
  const ink = useInks();
  return (
    <Box sx={{ display: "flex", gap: 0.75, color: ink.faint, fontSize: 12, py: 0.25 }}>
      <Lock />
      <span>{channels[0].locked}</span>
    </Box>
  );
}

const Lock = () => (
  <svg width="11" height="13" viewBox="0 0 11 13" aria-label="locked" style={{ flex: "none", marginTop: 2 }}>
    <rect x="1" y="5.5" width="9" height="7" rx="1.5" fill="currentColor" />
    <path d="M3 5.5 V3.6 a2.5 2.5 0 0 1 5 0 V5.5" fill="none" stroke="currentColor" strokeWidth="1.5" />
  </svg>
);

export function Row(p: {
  member: Member;
  control: Control;
  controls: Control[];
  channel: Channel;
  frame: number;
  slider: boolean;
}) {
  const ink = useInks();
  const { member, channel } = p;
  const { factor, digits, step, unit } = shownAs(channel);
  const number = member.channels.get(channel.address)!;
  const value = valueOf(member, number);
  const rows = member.clip.curves[channel.address];
  const keyed = rows?.some((row) => row[0] === p.frame);
  const pending = member.clip.pending[String(p.frame)]?.[channel.address] !== undefined;
  /** The same channel of all selected controls, with its value now. */
  const same = p.controls.flatMap((c) => {
    const n = member.channels.get(`${c.name}/${channel.name}`);
    return n === undefined || member.rig.channels[n].locked
      ? []
      : [{ channel: member.rig.channels[n], value: member.pose.values[n] }];
  });
  const names = p.controls.map((c) => c.name);
  const start = { values: same.map((s) => s.value) };

  function wish(change: number) {
    const values: Record<string, number> = {};
    same.forEach((s, n) => {
      values[s.channel.address] = clamp(start.values[n] + change / factor, s.channel);
    });
    return { do: "set" as const, values };
  }
  const readout = (change: number) =>
    `${channel.label} ${change < 0 ? "−" : "+"}${Math.abs(change).toFixed(digits)} ${unit}`;

  /** Where the hand has the slider: keys come faster than answers. */
  const [slid, setSlid] = useState<number | null>(null);
  const slides = useRef(0);
  // What shapes a hand is made to be slid.
  const shapes = p.control.kind === "finger" && channel.unit === "" && channel.low !== null && channel.high !== null;
  const reach = channel.locked
    ? null
    : shapes
      ? [channel.low!, channel.high!]
      : channel.unit === "rad"
        ? [channel.low ?? -Math.PI / 2, channel.high ?? Math.PI / 2]
        : null;
  const tip = [channel.purpose, channel.locked && `Locked: ${channel.locked}.`, limits(channel)]
    .filter(Boolean)
    .join(" ");
  return (
    <>
      <Box
        sx={{ display: "grid", gridTemplateColumns: "16px 1fr 84px 16px", alignItems: "center", gap: 0.5, height: 26 }}
      >
        <Box
          component="button"
          aria-label={keyed ? `${channel.label} is keyed at ${p.frame}` : `Key ${channel.label} at ${p.frame}`}
          title={keyed ? "Keyed here" : rows ? "Has keys, none here. Click to key" : "No keys. Click to key"}
          disabled={!!channel.locked}
          onClick={() =>
            void commit({
              kind: "pose",
              frame: p.frame,
              values: { [channel.address]: value },
              keying: "changed",
              kinds: [channel.kind],
              shape: desk().shape,
              what: `Key ${p.control.label} ${channel.label}`,
            })
          }
          sx={{ border: 0, p: 0, background: "none", cursor: "pointer", height: 22 }}
        >
          <svg width="12" height="12" viewBox="0 0 12 12">
            <circle
              cx="6"
              cy="6"
              r={keyed ? 4.5 : 3.5}
              fill={keyed ? ink.blue : "none"}
              stroke={rows ? ink.blue : ink.edge}
              strokeWidth="1.6"
            />
          </svg>
        </Box>
        <Tip title={tip}>
          <Box
            component="span"
            sx={{
              overflow: "hidden",
              textOverflow: "ellipsis",
              whiteSpace: "nowrap",
              color: channel.locked ? ink.faint : ink.ink,
            }}
          >
            {channel.label}
            {channel.locked && (
              <Box component="span" sx={{ ml: 0.5 }}>
                <Lock />
              </Box>
            )}
          </Box>
        </Tip>
        <NumberField
          label={channel.label}
          value={value * factor}
          digits={digits}
          step={step}
          disabled={!!channel.locked}
          pending={pending}
          mixed={same.some((s) => Math.abs(s.value - same[0].value) * factor >= 0.5 * 10 ** -digits)}
          onPoint={(on) => pointAt(on ? channel.address : "")}
          onBlocked={() => say(`${p.control.label}, ${channel.label}: ${channel.locked}`)}
          onType={(typed, by) => {
            const values: Record<string, number> = {};
            for (const s of same) values[s.channel.address] = typed / factor;
            void act(names, { do: by ? "add" : "set", values });
          }}
          onScrubStart={() => beginDrag(names)}
          onScrub={(change) => dragTo(wish(change), readout(change))}
          onScrubEnd={() => void endDrag()}
          onScrubCancel={cancelDrag}
        />
        <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
          {unit}
        </Box>
      </Box>
      {(p.slider || shapes) && reach && (
        <Box sx={{ pl: 3, pr: 3, height: 20, display: "flex", alignItems: "center" }}>
          <Slider
            size="small"
            aria-label={`${channel.label} slider`}
            min={reach[0] * factor}
            max={reach[1] * factor}
            step={shapes ? 0.01 : 0.5}
            track={false}
            marks={[{ value: channel.rest * factor }]}
            value={slid ?? Math.min(Math.max(value, reach[0]), reach[1]) * factor}
            onChange={(_, v) => {
              // A slider sets all selected controls to the same value.
              if (!dragging(names) && !beginDrag(names)) return;
              setSlid(v as number);
              const values: Record<string, number> = {};
              for (const s of same) values[s.channel.address] = clamp((v as number) / factor, s.channel);
              dragTo({ do: "set", values }, `${channel.label} ${(v as number).toFixed(digits)} ${unit}`);
            }}
            onChangeCommitted={() => {
              const mine = ++slides.current;
              // A later key goes on from where the slider is, not from what an earlier one has stored by then.
              void endDrag().finally(() => mine === slides.current && setSlid(null));
            }}
            sx={{
              color: ink.blue,
              py: 0.5,
              "& .MuiSlider-rail": { bgcolor: ink.shade, opacity: 1 },
              "& .MuiSlider-mark": { height: 8, bgcolor: ink.faint },
            }}
          />
        </Box>
      )}
    </>
  );
}

const clamp = (v: number, c: Channel) => Math.min(Math.max(v, c.low ?? -Infinity), c.high ?? Infinity);

function limits(channel: Channel): string {
  const { factor, digits, unit } = shownAs(channel);
  const at = (v: number) => `${(v * factor).toFixed(digits > 1 ? 2 : 0)}${unit}`;
  if (channel.low === null && channel.high === null) return "";
  if (channel.low === null) return `At most ${at(channel.high!)}.`;
  if (channel.high === null) return `At least ${at(channel.low)}.`;
  return `From ${at(channel.low)} to ${at(channel.high)}.`;
}
