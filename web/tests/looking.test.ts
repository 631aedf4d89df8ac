// What is looked up while the hand rests, and what is tried: late answers, and a hand that does not rest.
import { beforeEach, expect, test, vi } from "vitest";

vi.stubGlobal("window", { addEventListener: () => undefined });
let answerTry: ((pose: unknown) => void) | null = null;
vi.mock("../src/desk/opening", () => ({
  socket: () => ({ open: true, stream: (_: unknown, done: (pose: unknown) => void) => (answerTry = done) }),
}));

const { desk, freshTake, setDesk } = await import("../src/desk/store");
const { watch } = await import("../src/desk/looking");
const { leaveTry, tryEdit } = await import("../src/desk/posing");

const shot = { play_start: 1, play_end: 24, can_change: true };
const asked: number[] = [];
const look = () =>
  watch<number>({
    what: "test",
    ask: async () => asked.push(desk().revision),
    keep: () => ({}),
    also: (s) => [s.activeId],
    first: 10,
    rest: 50,
  });
const later = (ms: number) => vi.advanceTimersByTimeAsync(ms);

beforeEach(() => {
  vi.useFakeTimers();
  asked.length = 0;
  setDesk({ ...freshTake(), shot, takeId: 7 + Math.floor(Math.random() * 1e9), revision: 1 } as object);
});

test("it is looked once after each step, when the hand has rested", async () => {
  const stop = look();
  await later(20);
  expect(asked).toEqual([1]);
  setDesk({ revision: 2 });
  await later(40);
  setDesk({ revision: 3 });
  await later(200);
  expect(asked).toEqual([1, 3]);
  setDesk({ frame: 5 });
  await later(200);
  expect(asked).toEqual([1, 3]);
  stop();
});

test("what was put off while something was dragged or played is looked up afterwards", async () => {
  const stop = look();
  await later(20);
  setDesk({ dragged: new Map(), revision: 2 });
  await later(500);
  expect(asked).toEqual([1]);
  setDesk({ dragged: null });
  await later(100);
  expect(asked).toEqual([1, 2]);
  setDesk({ playing: true, revision: 3 });
  await later(100);
  setDesk({ playing: false });
  await later(100);
  expect(asked).toEqual([1, 2, 3]);
  stop();
});

test("a trial whose answer comes after its step was stored, or after it was left, is not shown", () => {
  const member = { id: 1, clip: { tracks: {}, pending: {} }, pose: {}, motion: { show: () => undefined } };
  setDesk({ cast: [member], activeId: 1, shot } as object);
  const edit = { kind: "key", frame: 1 } as Parameters<typeof tryEdit>[0];
  const pose = () => Object.assign(new Map(), { said: {} });
  tryEdit(edit);
  answerTry!(pose());
  expect(desk().dragged).not.toBe(null);
  setDesk({ dragged: null });
  tryEdit(edit);
  setDesk({ revision: 2 });
  answerTry!(pose());
  expect(desk().dragged).toBe(null);
  tryEdit(edit);
  leaveTry();
  answerTry!(pose());
  expect(desk().dragged).toBe(null);
});
