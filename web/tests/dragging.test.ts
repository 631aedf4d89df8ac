// The end of a drag: the last state is stored, also where its question was overtaken by the same state from the stream.
import { expect, test, vi } from "vitest";

vi.stubGlobal("window", { addEventListener: () => undefined });
const set = vi.fn(() => Promise.resolve(true));
vi.mock("../src/desk/posing", () => ({ setValues: set }));
vi.mock("../src/desk/frames", () => ({ showFrame: () => undefined, showPose: () => undefined }));
vi.mock("../src/desk/playing", () => ({ stop: () => undefined }));
vi.mock("../src/desk/paths", () => ({ watch: () => null, watched: () => undefined }));
const said = vi.fn();
vi.mock("../src/desk/steps", () => ({
  say: said,
  here: () => ({ takeId: 1, casting: 7, frame: 5 }),
  commit: () => Promise.resolve(true),
  outbox: { settled: () => Promise.resolve() },
}));
const { Passed } = await import("../src/desk/live");
const pose = new Map([[7, { changed: [[0, 0.25]] }]]);
let passes = 0;
let refusal: Error | null = null;
const live = {
  open: true,
  ask: vi.fn(({ do: what }: { do: string }) => {
    if (what === "begin") return Promise.resolve(new Map());
    if (refusal) return Promise.reject(refusal);
    return passes-- > 0 ? Promise.reject(new Passed()) : Promise.resolve(pose);
  }),
  stream: () => undefined,
  trace: () => undefined,
};
vi.mock("../src/desk/opening", () => ({ socket: () => live }));

const { setDesk } = await import("../src/desk/store");
const { beginDrag, dragTo, endDrag } = await import("../src/desk/dragging");

function dragged() {
  const member = {
    id: 7,
    clip: { tracks: {} },
    pose: { controls: new Float32Array(12), values: [0] },
    rig: { channels: [{ address: "fingers/fist" }], controls: [] },
    controls: new Map(),
    channels: new Map([["fingers/fist", 0]]),
  };
  setDesk({ cast: [member], activeId: 7, takeId: 1, shot: { can_change: true } } as never);
  beginDrag(["fingers"]);
  dragTo({ do: "set", values: { "fingers/fist": 0.25 } }, "fist 0.25");
  return endDrag();
}

test("the last state is asked for again where another one took its place", async () => {
  passes = 2;
  expect(await dragged()).toBe(true);
  expect(set).toHaveBeenCalledWith({ "fingers/fist": 0.25 }, "", expect.anything(), expect.anything());
  expect(said).not.toHaveBeenCalled();
});

test("what the server refuses is said, and not asked for again", async () => {
  set.mockClear();
  refusal = new Error("That is no control.");
  expect(await dragged()).toBe(false);
  expect(set).not.toHaveBeenCalled();
  expect(said).toHaveBeenCalledWith("That is no control. What was dragged last was not stored.", true);
});
