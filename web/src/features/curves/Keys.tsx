import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { layerOf } from "../../desk/layers";
import { parted } from "../../model/layers";
import { go } from "../../desk/playing";
import { useLookUp } from "../../desk/looking";
import { partsActedOn, select } from "../../desk/selecting";
import { commit } from "../../desk/steps";
import { chooseKeys, pointAt } from "../../desk/choosing";
import { openStrip } from "../../desk/viewing";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import { Parts } from "../../desk/widgets/Parts";
import { DEGREES } from "../../model/units";
import { useInks } from "../../ui/look";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";

/** Bumps, flips and keys that say nothing: what is found in the curves, and what is done about it. */
export function Keys({ member }: { member: Member }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const layer = useDesk((s) => layerOf(member, s));
  const editable = useDesk((s) => canChange(s));
  const [place, setPlace] = useState(0.2);
  const [turn, setTurn] = useState(0.6);
  const found = useLookUp({
    what: "curves",
    of: [member.id, layer, shot.start, shot.end],
    ask: (take_id) => {
      const query = { casting: member.id, first: shot.start, last: shot.end, layer };
      return ask(http.GET("/api/takes/{take_id}/curves", { params: { path: { take_id }, query } }));
    },
  });
  const count = found.data?.flips.length ?? 0;
  const longWay = !found.data
    ? "Looking for turns that go the long way round"
    : count
      ? `${count} ${count === 1 ? "turn goes" : "turns go"} the long way round`
      : "No turn goes the long way round";
  const tolerance = { place: place / 100, turn: turn / DEGREES };
  const clean = (kind: "spare keys" | "fit keys") => {
    const controls = partsActedOn();
    if (controls !== undefined) void commit({ kind, tolerance, controls, layer });
  };
  const named = (address: string) => {
    const { own } = parted(address);
    const channel = member.rig.channels[member.channels.get(own) ?? -1];
    const control = member.controls.get(own.slice(0, own.lastIndexOf("/")));
    return control && channel ? `${control.label} ${channel.label}` : own;
  };
  const lead = (address: string, frame: number) => {
    const { own } = parted(address);
    select([own.slice(0, own.lastIndexOf("/"))], "set", member.id);
    openStrip("graph");
    chooseKeys({ [address]: [frame] });
    pointAt(address);
    go(frame);
  };
  const { bumps, flips, idle } = found.data ?? { bumps: [], flips: [], idle: [] };
  return (
    <>
      <Section title="Fewer keys" hint={layer ? "of the layer" : ""}>
        <Parts />
        <Line>
          <Word>At most</Word>
          <Box sx={{ width: 52 }}>
            <NumberField
              label="Largest error of places in cm"
              value={place}
              digits={2}
              step={0.01}
              onType={(v, by) => setPlace(Math.max(by ? place + v : v, 0))}
            />
          </Box>
          <Word>cm and</Word>
          <Box sx={{ width: 52 }}>
            <NumberField
              label="Largest error of turns in degrees"
              value={turn}
              digits={2}
              step={0.01}
              onType={(v, by) => setTurn(Math.max(by ? turn + v : v, 0))}
            />
          </Box>
          <Word>° off</Word>
        </Line>
        <Line>
          <SmallButton
            disabled={!editable}
            onClick={() => clean("spare keys")}
            title="Keys without which every frame stays where it is"
          >
            Take out spare keys
          </SmallButton>
          <SmallButton
            disabled={!editable}
            onClick={() => clean("fit keys")}
            title="The fewest keys whose curve keeps this error"
          >
            Fit fewer keys
          </SmallButton>
        </Line>
      </Section>
      <Section title={longWay}>
        {flips.slice(0, 6).map((flip) => (
          <SmallButton
            key={`${flip.control} ${flip.before}`}
            sx={{ justifyContent: "flex-start", minWidth: 0, overflow: "hidden" }}
            onClick={() => {
              select([flip.control], "set", member.id);
              go(flip.before);
            }}
          >
            {member.controls.get(flip.control)?.label}: {flip.before} to {flip.after}, {Math.round(flip.by * DEGREES)}°
            more
          </SmallButton>
        ))}
        {flips.length > 0 && (
          <Line>
            <SmallButton disabled={!editable} onClick={() => void commit({ kind: "unwind", controls: null })}>
              Unwind all
            </SmallButton>
          </Line>
        )}
      </Section>
      <Section
        title={bumps.length ? `${bumps.length} bumps` : "No bumps"}
        hint={bumps.length ? "abrupt changes of speed" : ""}
      >
        {bumps.slice(0, 12).map((bump) => (
          <Box key={`${bump.address} ${bump.frame}`} sx={{ display: "flex", gap: 0.5 }}>
            <SmallButton
              sx={{ flex: 1, minWidth: 0, justifyContent: "flex-start", overflow: "hidden" }}
              onClick={() => lead(bump.address, bump.frame)}
            >
              <b style={{ minWidth: 34 }}>{bump.frame}</b> {named(bump.address)}, {bump.times.toFixed(0)} × the usual
            </SmallButton>
            <SmallButton
              disabled={!editable || !member.clip.curves[bump.address]?.some((row) => row[0] === bump.frame)}
              title="The key goes to where its neighbours lead"
              onClick={() => void commit({ kind: "calm", keys: { [bump.address]: [bump.frame] }, share: 1 })}
            >
              Calm
            </SmallButton>
          </Box>
        ))}
        {bumps.length > 12 && <Word>and {bumps.length - 12} more</Word>}
      </Section>
      <Section title={idle.length ? `${idle.length} channels keep one value` : "Every keyed channel moves"}>
        {idle.length > 0 && (
          <>
            <Box sx={{ color: ink.faint, fontSize: 12 }}>
              {idle
                .slice(0, 4)
                .map((one) => named(one.address))
                .join(", ")}
              {idle.length > 4 ? ` and ${idle.length - 4} more` : ""}
            </Box>
            <Line>
              <SmallButton
                disabled={!editable}
                title="One key stays where the value is not the one at rest"
                onClick={() =>
                  void commit({
                    kind: "clear channels",
                    addresses: idle.map((one) => one.address),
                    frame: desk().frame,
                    keep: true,
                  })
                }
              >
                Clear them; nothing moves
              </SmallButton>
            </Line>
          </>
        )}
      </Section>
    </>
  );
}
