// Takes opened one after the other, with answers of the first that come late.
import { beforeEach, expect, test, vi } from "vitest";

const asked: { path: string; id: number; answer: (value: unknown) => void }[] = [];
vi.stubGlobal("window", { addEventListener: () => undefined });
vi.mock("../src/api/client", () => ({
  ApiError: class extends Error {},
  whoIsIn: () => "isla",
  ask: (promise: Promise<unknown>) => promise,
  http: {
    GET: (path: string, { params }: { params: { path: Record<string, number> } }) =>
      new Promise((answer) => asked.push({ path, id: Object.values(params.path)[0], answer })),
  },
  bytes: () => Promise.reject(new Error("no frames here")),
}));
const sockets: number[] = [];
vi.mock("../src/desk/live", () => ({
  Live: class {
    constructor(take: number) {
      sockets.push(take);
    }
    close() {}
  },
}));

const { desk, freshTake, setDesk } = await import("../src/desk/store");
const { leaveTake, openTake } = await import("../src/desk/opening");

const shot = (id: number) => ({
  id,
  start: 1,
  end: 24,
  play_start: id,
  takes: [{ id: 10 * id }],
  cast: [{ id: 100 * id }],
});
const take = (id: number) => ({
  id,
  name: `take ${id}`,
  revision: id,
  can_undo: true,
  can_redo: false,
  clips: { [10 * id]: { curves: {}, pending: {}, labels: {}, tracks: {}, follows: [], poses: [] } },
});
const rig = { joints: [], controls: [], channels: [], parts: [], limbs: [] };

/** Answers a look-up, and lets what follows from it run. */
async function answer(path: string, id: number, value: unknown) {
  const at = asked.findIndex((one) => one.path === path && one.id === id);
  expect(at, `${path} of ${id}`).toBeGreaterThanOrEqual(0);
  asked.splice(at, 1)[0].answer(value);
  for (let n = 0; n < 20; n++) await Promise.resolve();
}
const opened = async (id: number) => {
  await answer("/api/shots/{shot_id}", id, shot(id));
  await answer("/api/takes/{take_id}", 10 * id, take(10 * id));
  await answer("/api/castings/{casting_id}/rig", 100 * id, rig);
};

beforeEach(() => {
  vi.useFakeTimers();
  leaveTake();
  asked.length = sockets.length = 0;
});

test("a take that is opened while another one is on its way is the one that is open", async () => {
  const [first, second] = [openTake(1), openTake(2)];
  // The answers of the first come in between, and last.
  await answer("/api/shots/{shot_id}", 1, shot(1));
  await opened(2);
  await answer("/api/takes/{take_id}", 10, take(10));
  await answer("/api/castings/{casting_id}/rig", 100, rig);
  await Promise.all([first, second]);
  expect([desk().takeId, desk().takeName, desk().revision, desk().frame]).toEqual([20, "take 20", 20, 2]);
  expect(desk().cast.map(({ id, takeId }) => [id, takeId])).toEqual([[200, 20]]);
  expect(sockets).toEqual([20]);
});

test("nothing of the take before is left, and what is of the page stays", async () => {
  const first = openTake(1);
  await opened(1);
  await first;
  const touched = Object.fromEntries(Object.keys(freshTake()).map((field) => [field, "of the first"]));
  setDesk({ ...touched, cast: [], playing: false, tool: "turn", keying: "whole", waiting: 3 } as object);
  const second = openTake(2);
  await opened(2);
  await second;
  expect(Object.values(desk())).not.toContain("of the first");
  expect([desk().tool, desk().keying, desk().waiting]).toEqual(["turn", "whole", 3]);
});

test("a take that was left before it came is not opened", async () => {
  const first = openTake(1);
  await answer("/api/shots/{shot_id}", 1, shot(1));
  leaveTake();
  await answer("/api/takes/{take_id}", 10, take(10));
  await answer("/api/castings/{casting_id}/rig", 100, rig);
  await first;
  expect([desk().takeId, desk().shot, sockets]).toEqual([0, null, []]);
});
