// Plants as they play: those that are stored, and those that a cycle shows again.
import { shownOn } from "./columns";
import { type Clip, type Plant, plantsOf } from "./types";

/** A plant on the time line: stored there, or shown again by a cycle. */
export interface Shown {
  control: string;
  start: number;
  end: number;
  plant: Plant;
  stored: boolean;
}

/** All plants of a limb, by its IK control and that of the other side; of what is shown again the later gives way. */
export function playedPlants(clip: Clip, control: string, other: string): Shown[] {
  const found: Shown[] = plantsOf(clip, control).map((plant) => ({ ...plant, control, plant, stored: true }));
  const copies = [
    { from: control, turned: false },
    { from: other, turned: true },
  ].flatMap(({ from, turned }) =>
    plantsOf(clip, from).flatMap((plant) =>
      shownOn(clip, plant.start)
        .filter((shown) => shown.mirrored === turned)
        .map(({ frame }) => ({ control, start: frame, end: frame + plant.end - plant.start, plant, stored: false })),
    ),
  );
  for (const copy of copies.sort((a, b) => a.start - b.start))
    if (found.every((there) => there.end < copy.start || copy.end < there.start)) found.push(copy);
  return found;
}
