import Box from "@mui/material/Box";
import { useMemo, useState } from "react";
import { ask, http } from "../../api/client";
import {
  changePlant,
  choosePlant,
  chosenPlant,
  endOf,
  endWord,
  isOf,
  plantable,
  plantLimbs,
  shownPlants,
  standsAt,
} from "../../desk/contacts";
import { useLookUp, useRested } from "../../desk/looking";
import { commit, say } from "../../desk/steps";
import { markPlant } from "../../desk/choosing";
import { select } from "../../desk/selecting";
import { desk, type Member, useDesk } from "../../desk/store";
import type { End, Plant } from "../../model/types";
import { Owner, ownerSaid, WORLD } from "../../desk/widgets/Owner";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { sideInk, useInks } from "../../ui/look";

const ABOUT: Record<string, string> = {
  "": "fixed",
  heel: "about the heel",
  ball: "about the ball",
  tip: "about the toe tip",
  palm: "about the palm",
  wrist: "about the wrist",
};

/** How a limb is held: as a whole, or about one of its points. */
function About({ limb, value, onChange }: { limb: End; value: string; onChange: (about: string) => void }) {
  const points = ["", ...["heel", "ball", "tip", "palm", "wrist"].filter((p) => p in limb.points)];
  return (
    <Choice
      label="Held"
      value={value}
      options={points.map((p) => ({ value: p, label: ABOUT[p] }))}
      onChange={onChange}
    />
  );
}

/** The limbs of the selection that can be planted. */
const chosenLimbs = (member: Member, selection: string[]) =>
  plantable(member).filter((l) => selection.some((name) => isOf(member, l, name)));

/** Planting what is selected, and the plant that is chosen. */
export function Plants({ member }: { member: Member }) {
  useDesk((s) => s.plant);
  const plant = chosenPlant(member);
  const limb = plant && plantable(member).find((l) => l.ik === desk().plant?.control);
  if (!plantable(member).length)
    return <Section title="Plants">{member.name} has no feet, hands or chains to plant.</Section>;
  return (
    <>
      <NewPlant member={member} />
      {plant && limb && <Chosen key={`${limb.ik} ${plant.start}`} member={member} limb={limb} plant={plant} />}
      <Here member={member} />
    </>
  );
}

function NewPlant({ member }: { member: Member }) {
  const ink = useInks();
  const selection = useDesk((s) => s.selection);
  const columns = useDesk((s) => s.columns);
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const [length, setLength] = useState(8);
  const [about, setAbout] = useState("");
  const limbs = chosenLimbs(member, selection);
  const start = columns.length > 1 ? columns[0] : frame;
  const end = columns.length > 1 ? columns[columns.length - 1] : Math.min(frame + length, shot.end);
  const [limb] = limbs;
  const held = limb && (about === "" || about in limb.points) ? about : "";
  async function plant() {
    if (!limbs.length) return say("Select a foot, a hand or a chain, on the figure, the map or here.");
    const plants = limbs.map((l) => ({ control: l.ik, start, end, about: held in l.points ? held : "" }));
    await plantLimbs(plants);
  }
  return (
    <Section title="Plant" hint="it stays where it is at the first frame">
      <Line>
        {plantable(member).map((l) => {
          const side = member.controls.get(l.ik)?.side ?? "";
          const on = limbs.includes(l);
          return (
            <SmallButton
              key={l.name}
              on={on}
              onClick={(e) =>
                select(on ? selection.filter((n) => !isOf(member, l, n)) : e.shiftKey ? [...selection, l.ik] : [l.ik])
              }
              sx={{ color: on ? ink.paper : sideInk(ink, side) }}
            >
              {`${side} ${endWord(l)}`.trim()}
            </SmallButton>
          );
        })}
      </Line>
      <Line>
        <Word>
          from {start} to {end}
          {columns.length > 1 ? " (the chosen columns)" : ", for"}
        </Word>
        {columns.length < 2 && (
          <>
            <Whole label="Frames planted" value={length} low={0} high={2000} onChange={setLength} />
            <Word>frames</Word>
          </>
        )}
      </Line>
      <Line>
        {limb && limb.kind !== "chain" && <About limb={limb} value={held} onChange={setAbout} />}
        <SmallButton onClick={() => void plant()}>Plant</SmallButton>
        <SmallButton
          disabled={!limbs.length}
          onClick={() => void commit({ kind: "lift", controls: limbs.map((l) => l.ik), starts: [] })}
          title="Takes all plants of these limbs away"
        >
          Lift all
        </SmallButton>
      </Line>
    </Section>
  );
}

function Chosen({ member, limb, plant }: { member: Member; limb: End; plant: Plant }) {
  const frame = useDesk((s) => s.frame);
  useDesk((s) => s.posed);
  const change = (now: Partial<Plant>) => void changePlant(limb.ik, plant.start, plant, now);
  const [x, , z, qx, qy, qz, qw] = standsAt(member, limb.ik, plant.start);
  const heading = Math.atan2(2 * (qx * qz + qw * qy), 1 - 2 * (qx * qx + qy * qy));
  const put = (at: { x?: number; z?: number; heading?: number }) =>
    void commit({ kind: "place", control: limb.ik, at: plant.start, x, z, heading: null, ...at });
  return (
    <Section
      title={endOf(limb)[0].toUpperCase() + endOf(limb).slice(1)}
      hint={`planted ${plant.start} to ${plant.end}`}
    >
      <Line>
        <Word>from</Word>
        <Whole label="Planted from" value={plant.start} onChange={(start) => change({ start })} />
        <Word>to</Word>
        <Whole label="Planted to" value={plant.end} onChange={(end) => change({ end })} />
        {limb.kind !== "chain" && <About limb={limb} value={plant.about} onChange={(about) => change({ about })} />}
      </Line>
      <Line>
        <Word>lands over</Word>
        <Whole label="Landing in frames" value={plant.land} low={0} high={1000} onChange={(land) => change({ land })} />
        <Word>released over</Word>
        <Whole
          label="Release in frames"
          value={plant.release}
          low={0}
          high={1000}
          onChange={(release) => change({ release })}
        />
        <Word>{plant.release ? "frames" : "(to its next key)"}</Word>
      </Line>
      <Line>
        <Word>on</Word>
        <Owner
          member={member}
          value={plant.thing ? { figure: plant.figure, control: plant.thing } : WORLD}
          onChange={({ figure, control }) => change({ figure, thing: control })}
          own={false}
          world="the ground"
        />
      </Line>
      <Box sx={{ display: "grid", gridTemplateColumns: "auto 1fr auto 1fr auto 1fr", gap: 0.5, alignItems: "center" }}>
        <Word>x</Word>
        <NumberField
          label="Plant x in metres"
          value={x}
          digits={3}
          step={0}
          onType={(v, by) => put({ x: by ? x + v : v })}
        />
        <Word>z</Word>
        <NumberField
          label="Plant z in metres"
          value={z}
          digits={3}
          step={0}
          onType={(v, by) => put({ z: by ? z + v : v })}
        />
        {limb.kind !== "chain" && (
          <>
            <Word>heading</Word>
            <NumberField
              label="Plant heading in degrees"
              value={(heading * 180) / Math.PI}
              digits={1}
              step={0}
              onType={(v, by) => put({ heading: (by ? heading : 0) + (v * Math.PI) / 180 })}
            />
          </>
        )}
      </Box>
      <Line>
        <SmallButton
          disabled={frame <= plant.start || frame > plant.end}
          onClick={() => void commit({ kind: "split", control: limb.ik, at: plant.start, frame })}
          title="Two plants, the second from the playhead on; nothing moves by it"
        >
          Split at {frame}
        </SmallButton>
        <SmallButton
          onClick={() =>
            void commit({ kind: "lift", controls: [limb.ik], starts: [plant.start] }).then(
              (ok) => ok && markPlant(null),
            )
          }
        >
          Lift
        </SmallButton>
      </Line>
    </Section>
  );
}

/** What is planted at the playhead. */
function Here({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const cast = useDesk((s) => s.cast);
  const borne = useBorne(member);
  const found = plantable(member).flatMap((limb) =>
    shownPlants(member, limb)
      .filter((s) => s.start <= frame && frame <= s.end)
      .map((shown) => ({ limb, shown })),
  );
  return (
    <Section title={`At frame ${frame}`}>
      {found.length === 0 ? (
        <Box sx={{ color: ink.faint }}>
          Nothing is planted here. Draw a plant on the strip, in the row of a foot, a hand or a tip, or plant the
          selection.
        </Box>
      ) : (
        found.map(({ limb, shown }) => (
          <Line key={limb.name}>
            <SmallButton
              disabled={!shown.stored}
              onClick={() => choosePlant(member, limb.ik, shown.start, frame)}
            >{`${endOf(limb)} ${shown.start}–${shown.end}`}</SmallButton>
            <Word>
              {ABOUT[shown.plant.about]}
              {shown.plant.thing
                ? `, on ${ownerSaid(member, cast, { figure: shown.plant.figure, control: shown.plant.thing })}`
                : ""}
              {shown.stored ? "" : ", shown again"}
              {limb.ik in borne ? `, bears ${Math.round(borne[limb.ik] * 100)} %` : ""}
            </Word>
          </Line>
        ))
      )}
    </Section>
  );
}

/** By limb, the share of the weight that it bears at the playhead: by where the centre of mass is. */
function useBorne(member: Member): Record<string, number> {
  const playing = useDesk((s) => s.playing);
  const frame = useRested(
    useDesk((s) => s.frame),
    120,
  );
  const found = useLookUp({
    what: "bearing",
    of: [member.id, frame],
    ask: (take_id) => {
      const query = { casting: member.id, frame };
      return ask(http.GET("/api/takes/{take_id}/bearing", { params: { path: { take_id }, query } }));
    },
    enabled: !playing,
  });
  return useMemo(() => Object.fromEntries((found.data ?? []).map((b) => [b.control, b.share])), [found.data]);
}
