import Box from "@mui/material/Box";
import { useState } from "react";
import { titled } from "../../desk/bound";
import { chainOf, reaches, reset, switchChain, switchLimb } from "../../desk/posing";
import { putBack } from "../../desk/dragging";
import { active, channelsOf, type Member, modeOf, useDesk } from "../../desk/store";
import type { Control, Kind } from "../../model/types";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { Doubles } from "./Doubles";
import { OverRange } from "./OverRange";
import { UntilItTouches } from "./UntilItTouches";
import { Locked, Row } from "./Row";
import { Keys, Offset } from "./Keying";

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
  const chain = chainOf(member, control.name);
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
      <Doubles member={member} control={control} />
      {limb && (
        <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 0.75 }}>
          <Box sx={{ color: ink.faint, fontSize: 12, flex: 1 }}>{named(limb)} posed by</Box>
          {(["fk", "ik"] as const).map((mode) => (
            <SmallButton
              key={mode}
              on={modeOf(member, limb.name) === mode}
              onClick={() => modeOf(member, limb.name) !== mode && void switchLimb(limb.name, mode)}
              title={titled("Change without moving the limb", "limb")}
            >
              {mode.toUpperCase()}
            </SmallButton>
          ))}
        </Box>
      )}
      {chain && (
        <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 0.75 }}>
          <Box sx={{ color: ink.faint, fontSize: 12, flex: 1 }}>
            {chain.label} {reaches(member, chain) ? "reaches for its tip" : "is bent by its sliders"}
          </Box>
          {(["fk", "ik"] as const).map((mode) => (
            <SmallButton
              key={mode}
              on={reaches(member, chain) === (mode === "ik")}
              onClick={() => reaches(member, chain) !== (mode === "ik") && void switchChain(member, chain)}
              title={titled("Change without moving the chain", "limb")}
            >
              {mode.toUpperCase()}
            </SmallButton>
          ))}
        </Box>
      )}
      <OverRange member={member} />
      <UntilItTouches member={member} controls={controls} />
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
                {{ place: `Place, ${axesOf(member, control)}`, turn: "Turn", extra: "More", scale: "Size" }[kind]}
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

/** What hangs on the controls that were moved last and went along, with one action to put it back in the world. */
function WentAlong({ member }: { member: Member }) {
  const ink = useInks();
  const along = useDesk((s) => s.along);
  const frame = useDesk((s) => s.frame);
  if (!along || along.casting !== member.id || along.frame !== frame) return null;
  const names = Object.keys(along.places).map((name) => member.controls.get(name)?.label ?? name);
  return (
    <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 0.75 }} role="status">
      <Box sx={{ flex: 1, color: ink.faint, fontSize: 12 }}>
        Went along: {names.slice(0, 3).join(", ")}
        {names.length > 3 ? ` and ${names.length - 3} more` : ""}
      </Box>
      <SmallButton onClick={() => void putBack()} title="They come back to where they stood in the world before this">
        Keep them where they were
      </SmallButton>
    </Box>
  );
}

/** In whose axes a control's place is read: the master's are the world's. */
function axesOf(member: Member, control: Control): string {
  const parent = member.controls.get(control.parent);
  return parent ? `in the axes of ${parent.label}` : "in the world’s axes";
}
