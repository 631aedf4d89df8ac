import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { endOf, plantLimbs, plantable } from "../../desk/contacts";
import { go } from "../../desk/playing";
import { useLookUp, useRested } from "../../desk/looking";
import { select } from "../../desk/selecting";
import { type Member, useDesk } from "../../desk/store";
import type { Found } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Section, Line, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { useInks } from "../../ui/look";

/** Plants that the motion shows, by thresholds whose effect is seen at once; taken one by one, or all. */
export function FindPlants({ member }: { member: Member }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const [height, setHeight] = useState(30);
  const [speed, setSpeed] = useState(0.2);
  const [shortest, setShortest] = useState(3);
  const [first, last] = [shot.play_start, shot.play_end];
  const query = useRested({ casting: member.id, first, last, height: height / 1000, speed, shortest }, 150);
  const looked = useLookUp({
    what: "plants",
    of: [query],
    ask: (take_id) => ask(http.GET("/api/takes/{take_id}/plants", { params: { path: { take_id }, query } })),
  });
  const found = looked.data ?? null;
  const problem = looked.error?.message ?? "";

  const take = (plants: Found[]) =>
    void plantLimbs(plants.map(({ control, start, end, about }) => ({ control, start, end, about })));
  const name = (control: string) => {
    const limb = plantable(member).find((l) => l.ik === control);
    return limb ? endOf(limb) : control;
  };
  return (
    <>
      <Section title="Where feet stand" hint={`in ${first} to ${last}`}>
        <Line>
          <Word>no higher than</Word>
          <Whole label="Height in millimetres" value={height} low={0} high={10000} onChange={setHeight} />
          <Word>mm,</Word>
          <Word>no faster than</Word>
          <Box sx={{ width: 48 }}>
            <NumberField
              label="Speed in metres a second"
              value={speed}
              digits={2}
              step={0}
              onType={(v, by) => setSpeed(Math.min(Math.max(by ? speed + v : v, 0), 100))}
            />
          </Box>
          <Word>m/s,</Word>
          <Word>for</Word>
          <Whole label="Fewest frames" value={shortest} low={1} high={1000} width={32} onChange={setShortest} />
          <Word>frames or more</Word>
        </Line>
      </Section>
      <Section title={found ? `${found.length} found` : "Looking"} hint="click one to see it">
        {problem && <Box role="alert">{problem}</Box>}
        <Box sx={{ display: "grid", gap: 0.25 }}>
          {found?.map((plant) => (
            <Box
              key={`${plant.control} ${plant.start}`}
              sx={{ display: "grid", gridTemplateColumns: "1fr auto auto", gap: 0.75, alignItems: "center" }}
            >
              <SmallButton
                sx={{ justifyContent: "flex-start" }}
                onClick={() => {
                  select([plant.control], "set", member.id);
                  go(plant.start);
                }}
              >
                {name(plant.control)} {plant.start}–{plant.end}
                {plant.about ? `, ${plant.about}` : ""}
              </SmallButton>
              <Box component="span" sx={{ color: plant.slip > 0.0005 ? ink.red : ink.faint, fontSize: 12 }}>
                slides {(plant.slip * 1000).toFixed(1)} mm
              </Box>
              <SmallButton
                aria-label={`Plant ${name(plant.control)} ${plant.start} to ${plant.end}`}
                onClick={() => take([plant])}
              >
                Plant
              </SmallButton>
            </Box>
          ))}
        </Box>
        {found?.length === 0 && (
          <Box sx={{ color: ink.faint }}>No foot stands so still so low. Allow more of either.</Box>
        )}
        <Line>
          <SmallButton disabled={!found?.length} onClick={() => found && take(found)}>
            Plant all
          </SmallButton>
        </Line>
      </Section>
    </>
  );
}
