// Ways that are drawn: what was drawn is not lost where it could not be laid, and a new way is the one worked on.
import { beforeEach, expect, test, vi } from "vitest";

vi.stubGlobal("window", { addEventListener: () => undefined });
let made = true;
const edits: { kind: string }[] = [];
vi.mock("../src/desk/steps", async (actual) => ({
  ...(await actual<object>()),
  commit: async (edit: { kind: string }) => {
    edits.push(edit);
    return made;
  },
}));

const { desk, freshTake, setDesk } = await import("../src/desk/store");
const { layWay, turnOnSpot } = await import("../src/desk/goings");
const { actOn } = await import("../src/desk/selecting");

const points = [[0, 0, 0], [0, 0, 2]]; // prettier-ignore
const cast = [
  { id: 1, rig: { limbs: [] } },
  { id: 2, rig: { limbs: [] } },
];
const chosen = { start: 1, footfall: { number: 9, leg: "R" } };

beforeEach(() => {
  made = true;
  edits.length = 0;
  const drawn = { casting: 1, here: false, points };
  setDesk({ ...freshTake(), cast, activeId: 1, takeId: 7, frame: 249, wayDrawn: drawn, wayChosen: chosen } as object);
});

test("a way that is laid is the one that is worked on from then on", async () => {
  expect(await layWay()).toBe(true);
  expect(edits).toMatchObject([{ kind: "lay way", start: 249, here: false }]);
  expect([desk().wayDrawn, desk().wayChosen]).toEqual([null, null]);
  setDesk({ wayChosen: chosen });
  await turnOnSpot(1.5);
  expect(desk().wayChosen).toBe(null);
});

test("what was drawn stays where it could not be laid, unless something else is drawn by then", async () => {
  made = false;
  expect(await layWay()).toBe(false);
  expect(desk().wayDrawn?.points).toEqual(points);
  expect(desk().wayChosen).toEqual(chosen);
  const laying = layWay();
  setDesk({ wayDrawn: { casting: 1, here: true, points: [] } });
  await laying;
  expect(desk().wayDrawn?.points).toEqual([]);
  setDesk({ wayDrawn: { casting: 1, here: false, points } } as object);
  const later = layWay();
  setDesk({ wayDrawn: null, takeId: 8 });
  await later;
  expect(desk().wayDrawn).toBe(null);
});

test("what is chosen of one figure's way is not chosen of another's", () => {
  actOn(2);
  expect(desk().wayChosen).toBe(null);
});
