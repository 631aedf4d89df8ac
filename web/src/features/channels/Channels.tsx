import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import Tooltip from "@mui/material/Tooltip";
import { useState } from "react";
import { keySelection, keyWhole, reset, switchLimb } from "../../desk/posing";
import { commit, say } from "../../desk/steps";
import { act, beginDrag, cancelDrag, dragging, dragTo, endDrag, putBack } from "../../desk/dragging";
import { pivotPlace } from "../../desk/pivot";
import { active, channelsOf, desk, type Member, modeOf, setDesk, useDesk, valueOf } from "../../desk/store";
import type { Axes, Channel, Control, Keying, Kind } from "../../model/types";
import { DEGREES, shownAs } from "../../model/units";
import { Choice } from "../../ui/Choice";
import { KindsKeyed } from "../../desk/widgets/KindsKeyed";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const NAMES: Record<Axes, string> = { world: "world", parent: "parent", own: "own", view: "world" };

/** What the Pose bench needs: the channels of the selection, and keying. */
export function Channels() {
  return (
    <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0, height: "100%" }}>
      <ChannelList />
      <Keys />
    </Box>
  );
}

function ChannelList() {
  const ink = useInks();
  const member = useDesk((s) => active(s));
  const selection = useDesk((s) => s.selection);
  const frame = useDesk((s) => s.frame);
  const [sliders, setSliders] = useState(false);
  useDesk((s) => s.posed);
  useDesk((s) => s.dragged);
  const controls = selection.flatMap((name) => member?.controls.get(name) ?? []);
  const control = controls[controls.length - 1];
  if (!member) return null;
  if (!control)
    return (
      <Box sx={{ p: 2, color: ink.faint, flex: 1 }}>
        Nothing is selected. Click a part of the figure or of the body map; Shift adds, Ctrl takes away, and a drag over
        the empty stage selects what lies inside (Alt: draw round it).
      </Box>
    );
  const turns = channelsOf(member, control).filter((c) => !c.locked && c.unit === "rad");
  const limb = member.rig.limbs.find((l) => l.name === control.limb);
  const channels = channelsOf(member, control);
  const named = (l: typeof limb) => (l ? `${l.label} ${l.kind}` : "");
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflowY: "auto", p: 1 }} data-testid="channels">
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1, mb: 0.5 }}>
        <Box component="h2" sx={{ fontSize: 14, m: 0, flex: 1, "&::first-letter": { textTransform: "uppercase" } }}>
          {control.label}
          {controls.length > 1 && (
            <Box component="span" sx={{ color: ink.faint, fontWeight: 400 }}>
              {" "}
              and {controls.length - 1} more
            </Box>
          )}
        </Box>
        {turns.length > 0 && (
          <SmallButton
            on={sliders}
            onClick={() => setSliders(!sliders)}
            title="Sliders for bend, side to side and twist"
            sx={{ height: 22 }}
          >
            Sliders
          </SmallButton>
        )}
        {control.side && (
          <Box sx={{ color: control.side === "L" ? ink.left : ink.right, fontWeight: 700 }}>
            {control.side === "L" ? "L left" : "R right"}
          </Box>
        )}
      </Box>
      <WentAlong member={member} />
      {limb && (
        <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 0.75 }}>
          <Box sx={{ color: ink.faint, fontSize: 12, flex: 1 }}>{named(limb)} posed by</Box>
          {(["fk", "ik"] as const).map((mode) => (
            <SmallButton
              key={mode}
              on={modeOf(member, limb.name) === mode}
              onClick={() => modeOf(member, limb.name) !== mode && void switchLimb(limb.name, mode)}
              title="Change without moving the limb (I)"
            >
              {mode.toUpperCase()}
            </SmallButton>
          ))}
        </Box>
      )}
      {(["place", "turn", "extra", "scale"] as Kind[]).map((kind) => {
        const rows = channels.filter((c) => c.kind === kind);
        if (!rows.length) return null;
        return (
          <Box key={kind} sx={{ mb: 0.75 }}>
            <Box
              sx={{
                display: "flex",
                fontSize: 12,
                color: ink.faint,
                borderBottom: 1,
                borderColor: "divider",
                mb: 0.25,
              }}
            >
              <span style={{ flex: 1 }}>
                {{ place: "Place, in its parent’s axes", turn: "Turn", extra: "More", scale: "Size" }[kind]}
              </span>
              {rows.some((c) => !c.locked) && (
                <Box
                  component="button"
                  onClick={() => void reset(false, [kind])}
                  sx={{ border: 0, background: "none", color: ink.blue, cursor: "pointer", font: "inherit", p: 0 }}
                  title="Bring these back to rest"
                >
                  reset
                </Box>
              )}
            </Box>
            {rows.every((c) => c.locked) ? (
              <Locked channels={rows} />
            ) : (
              rows.map((channel) => (
                <Row
                  key={channel.address}
                  member={member}
                  control={control}
                  controls={controls}
                  channel={channel}
                  frame={frame}
                  slider={sliders}
                />
              ))
            )}
          </Box>
        );
      })}
      {limb && <WholeLimb member={member} controls={controls} frame={frame} title={named(limb)} />}
      <Offset control={control} controls={controls} />
    </Box>
  );
}

/** What a limb has as a whole, whichever of its controls is selected: how soft and how long it is, whether it gives. */
function WholeLimb(p: { member: Member; controls: Control[]; frame: number; title: string }) {
  const ink = useInks();
  const { member } = p;
  const limbs = [...new Set(p.controls.map((c) => c.limb))].flatMap((name) => member.controls.get(name) ?? []);
  const whole = limbs[limbs.length - 1];
  if (!whole) return null;
  return (
    <Box sx={{ mb: 0.75 }}>
      <Box sx={{ fontSize: 12, color: ink.faint, borderBottom: 1, borderColor: "divider", mb: 0.25 }}>
        The whole {p.title}
      </Box>
      {channelsOf(member, whole)
        .filter((channel) => channel.name !== "ik")
        .map((channel) => (
          <Row
            key={channel.address}
            member={member}
            control={whole}
            controls={limbs}
            channel={channel}
            frame={p.frame}
            slider={false}
          />
        ))}
    </Box>
  );
}

/** A whole kind that is locked says so in one line. */
function Locked({ channels }: { channels: Channel[] }) {
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

function Row(p: {
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
        <Tooltip title={tip} placement="left">
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
        </Tooltip>
        <NumberField
          label={channel.label}
          value={value * factor}
          digits={digits}
          step={step}
          disabled={!!channel.locked}
          pending={pending}
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
            onChangeCommitted={() => void endDrag().finally(() => setSlid(null))}
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

/** Typed offsets along the tool's axes, for the whole selection. */
function Offset({ control, controls }: { control: Control; controls: Control[] }) {
  const ink = useInks();
  const wished = useDesk((s) => s.tool);
  const axes = useDesk((s) => s.axes);
  const [, again] = useState(0);
  const moves = wished === "turn" ? !control.can_turn : control.can_move;
  const tool = moves ? "move" : "turn";
  if (!control.posed) return null;

  async function apply(axis: number, typed: number) {
    const way = [0, 0, 0].map((_, n) => (n === axis ? 1 : 0));
    const kept = axes[tool] === "view" ? "world" : axes[tool];
    const names = controls.map((c) => c.name);
    const ok =
      tool === "move"
        ? await act(names, { do: "move", offset: way.map((w) => w * typed), axes: kept, view: [0, 0, 0, 1] })
        : await act(names, {
            do: "turn",
            axis: way,
            angle: typed / DEGREES,
            axes: kept,
            view: [0, 0, 0, 1],
            pivot: pivotPlace(),
          });
    if (ok) again((n) => n + 1);
  }
  return (
    <Box sx={{ mt: 1, pt: 0.5, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ fontSize: 12, color: ink.faint, mb: 0.25 }}>
        {tool === "move" ? "Move" : "Turn"} by, along {NAMES[axes[tool]]} axes ({tool === "move" ? "m" : "°"})
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 12px 1fr)", gap: 0.5, alignItems: "center" }}>
        {["x", "y", "z"].map((axis, n) => [
          <b key={`${axis}l`}>{axis}</b>,
          <NumberField
            key={axis}
            label={`${tool} by ${axis}`}
            value={0}
            digits={tool === "move" ? 3 : 1}
            step={0}
            onType={(typed) => void apply(n, typed)}
          />,
        ])}
      </Box>
    </Box>
  );
}

function Keys() {
  const keying = useDesk((s) => s.keying);
  return (
    <Box sx={{ px: 1, py: 0.75, borderTop: 1, borderColor: "divider", display: "grid", gap: 0.5 }}>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Choice
          label="Automatic keying"
          show
          value={keying}
          options={[
            { value: "off", label: "Off: poses wait" },
            { value: "changed", label: "What changed" },
            { value: "control", label: "The control" },
            { value: "whole", label: "Whole character" },
          ]}
          onChange={(k: Keying) => setDesk({ keying: k })}
        />
        <KindsKeyed />
      </Box>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <SmallButton onClick={() => void keySelection()} title="Key the selection (K)">
          Key
        </SmallButton>
        <SmallButton onClick={() => void keyWhole()} title="Key the whole character (Shift+K)">
          Key whole
        </SmallButton>
        <SmallButton onClick={() => void reset(false)} title="Selected controls back to rest (R)">
          Reset
        </SmallButton>
        <SmallButton onClick={() => void reset(true)} title="The whole character back to rest (Shift+R)">
          Reset all
        </SmallButton>
      </Box>
    </Box>
  );
}

/** What hangs on the controls that were moved last and went along, with one action to put it back in the world. */
function WentAlong({ member }: { member: Member }) {
  const ink = useInks();
  const along = useDesk((s) => s.along);
  const frame = useDesk((s) => s.frame);
  if (!along || along.casting !== member.id || along.frame !== frame) return null;
  const names = Object.keys(along.places).map((name) => member.controls.get(name)?.label ?? name);
  return (
    <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 0.75 }} role="status">
      <Box sx={{ flex: 1, color: ink.red, fontSize: 12 }}>
        Went along: {names.slice(0, 3).join(", ")}
        {names.length > 3 ? ` and ${names.length - 3} more` : ""}
      </Box>
      <SmallButton onClick={() => void putBack()} title="They stay in the world as they were before this">
        Put back
      </SmallButton>
    </Box>
  );
}
