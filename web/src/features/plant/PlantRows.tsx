import { changePlant, choosePlant, endOf, endWord, plantable, plantLimbs, shownPlants } from "../../desk/contacts";
import { markPlant } from "../../desk/choosing";
import { footfallsOf } from "../../desk/goings";
import { canChange, type Member, useDesk } from "../../desk/store";
import { plantsOf } from "../../model/types";
import { sideInk, useInks } from "../../ui/look";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import { type Row, SpanRows } from "../../ui/SpanRows";

/** A row for each foot, hand and tip of a chain with its plants. */
export function PlantRows({ member, frame: lies }: { member: Member; frame: Room }) {
  const place = usePlace(lies);
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const chosen = useDesk((s) => s.plant);
  const shot = useDesk((s) => s.shot)!;
  const told = useDesk((s) => s.ways);
  const rows = plantable(member).map((limb): Row => {
    const side = member.controls.get(limb.ik)?.side ?? "";
    return {
      key: limb.ik,
      label: `${side} ${endWord(limb)}`.trim(),
      tone: sideInk(ink, side),
      spans: [
        ...shownPlants(member, limb).map(({ start, end, plant, stored }) => ({
          start,
          end,
          stored,
          soft: plant.about !== "",
          text: plant.about,
          chosen: stored && chosen?.control === limb.ik && chosen.start === start,
          label:
            `${endOf(limb)} planted ${start} to ${end}` +
            (plant.about ? `, turning about the ${plant.about}` : "") +
            (stored ? "" : "; shown again by the cycle"),
        })),
        // Footfalls of a way are plants: changed at the bench Ways.
        ...(told ? footfallsOf(member, limb.ik) : []).map(({ footfall }) => ({
          start: footfall.first,
          end: footfall.last,
          stored: false,
          soft: false,
          text: `${footfall.number}`,
          chosen: false,
          label: `${endOf(limb)} stands ${footfall.first} to ${footfall.last}, footfall ${footfall.number} of a way`,
        })),
      ].filter((s) => s.end >= shot.start && s.start <= shot.end),
    };
  });
  return (
    <SpanRows
      name="Plants"
      rows={rows}
      range={[shot.start, shot.end]}
      place={place}
      editable={editable}
      onDraw={(row, start, end) => void plantLimbs([{ control: row.key, start, end, about: "" }])}
      onChange={(row, span, start, end) => {
        const plant = plantsOf(member.clip, row.key).find((p) => p.start === span.start);
        if (plant) void changePlant(row.key, span.start, plant, { start, end });
      }}
      onChoose={(row, span, frame) => {
        if (!span) markPlant(null);
        else if (span.stored) choosePlant(member, row.key, span.start, frame);
      }}
    />
  );
}
