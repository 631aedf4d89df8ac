import { expect, test } from "vitest";
import { FACTS } from "../src/api/facts.gen";
import { derived, keyFrames, poseFrames, shownOn, sourceOf } from "../src/model/columns";
import { addressIn, layersOf, parted } from "../src/model/layers";
import { taken } from "../src/model/taken";
import { playedPlants } from "../src/model/plants";
import { cases } from "./cases";

test("key frames and whole poses are those of the core, shown ones among them", () => {
  for (const { clip, frames, poses } of cases.clips) {
    expect(keyFrames({ clip })).toEqual(frames);
    expect(poseFrames({ clip })).toEqual(poses);
  }
});

test("what a frame shows, and where it comes from, is what the core says", () => {
  for (const { clip, shown } of cases.clips)
    for (const [frame, source, mirrored] of shown) {
      expect(sourceOf(clip, frame)).toEqual({ frame: source, mirrored });
      expect(derived(clip, frame)).toBe(true);
      expect(shownOn(clip, source)).toContainEqual(expect.objectContaining({ frame, mirrored }));
    }
});

test("addresses in layers are parted as they are put together", () => {
  for (const { layer, own, address } of cases.addresses) {
    expect(addressIn(layer, own)).toBe(address);
    expect(parted(address)).toEqual({ layer, own });
  }
});

test("layers are listed from the uppermost down", () => {
  const layer = (name: string, place: number) => [
    { kind: FACTS.layers.track, start: 0, end: 0, name, place, muted: false, solo: false, controls: [], turned: true },
  ];
  const tracks = { "layer/3": layer("c", 1), "layer/1": layer("a", 2), "layer/2": [], "plant/leg.L.goal": [] };
  const clip = { ...cases.clips[0].clip, tracks } as unknown as Parameters<typeof layersOf>[0];
  expect(layersOf(clip).map(({ number, layer: { name } }) => [number, name])).toEqual([
    [1, "a"],
    [3, "c"],
  ]);
});

test("plants play as in the core: what is shown again gives way to what is stored, and to what comes before", () => {
  let shown = 0;
  for (const { clip, plants } of cases.clips)
    for (const [control, wanted] of Object.entries(plants)) {
      const other = control.includes(".L.") ? control.replace(".L.", ".R.") : control.replace(".R.", ".L.");
      const found = playedPlants(clip, control, other);
      shown += found.filter((plant) => !plant.stored).length;
      expect(found.map(({ start, end }) => [start, end]).sort(([a], [b]) => a - b)).toEqual(wanted);
    }
  expect(shown).toBeGreaterThan(10);
});

test("what a step changed is taken over: keys that moved, came, went, or gave way", () => {
  for (const { before, change, after } of cases.changes) expect(taken(before, change).curves).toEqual(after);
  expect(cases.changes.some(({ change }) => Object.values(change.curves).some((one) => one.moved))).toBe(true);
});
