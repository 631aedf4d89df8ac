import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ApiError } from "../src/api/client";
import { newId, Outbox, type Step, type Told } from "../src/model/outbox";
import type { StepDone } from "../src/model/types";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

const done = { revision: 2 } as StepDone;
let person = "isla";

function box(over: Partial<ConstructorParameters<typeof Outbox>[0]> = {}) {
  const told = { done: [] as string[], aside: [] as string[], states: [] as [number, boolean, string][] };
  const outbox = new Outbox({
    revision: () => 7,
    person: () => person,
    done: async (step) => void told.done.push(step.id),
    clash: async () => null,
    asks: async () => null,
    lookUp: async () => null,
    elsewhere: () => undefined,
    renew: async () => undefined,
    state: (waiting, since, whose) => void told.states.push([waiting, since !== null, whose]),
    setAside: (step) => void told.aside.push(step.id),
    ...over,
  });
  return { outbox, told };
}

const step = (id: string, send: (told: Told) => Promise<StepDone>, by = "isla"): Step => ({
  id,
  takeId: 1,
  by,
  basis: { revision: 5, after: ["a"] },
  what: id,
  send,
});

async function passes(ms = 60_000) {
  await vi.advanceTimersByTimeAsync(ms);
}

test("steps go one after the other, each with what it was made on", async () => {
  person = "isla";
  const { outbox, told } = box();
  const sent: [string, Told][] = [];
  const slow = (id: string, ms: number) =>
    step(id, async (given) => {
      sent.push([id, given]);
      await new Promise((go) => setTimeout(go, ms));
      return done;
    });
  const all = Promise.all([outbox.put(slow("one", 500)), outbox.put(slow("two", 10))]);
  await passes(100);
  expect(sent.map(([id]) => id)).toEqual(["one"]);
  await passes();
  expect(await all).toEqual([
    { stored: true, id: "one" },
    { stored: true, id: "two" },
  ]);
  expect(told.done).toEqual(["one", "two"]);
  expect(sent[1][1]).toEqual({ revision: 5, after: ["a"], id: "two", by: "isla", shown: 7 });
  expect(outbox.waiting).toBe(0);
});

test("a step is sent again while the server is away, and the page says so", async () => {
  const { outbox, told } = box();
  let tries = 0;
  const put = outbox.put(
    step("one", async () => {
      if (++tries < 4) throw new ApiError(tries === 1 ? 0 : 503, "away");
      return done;
    }),
  );
  await passes(500);
  expect(told.states.at(-1)).toEqual([1, true, ""]);
  await passes();
  expect(await put).toMatchObject({ stored: true });
  expect(told.states.at(-1)).toEqual([0, false, ""]);
});

test("one that the server breaks on is looked up by its name before it is set aside", async () => {
  const broken = async () => {
    throw new ApiError(500, "broken");
  };
  const stored = box({ lookUp: async () => done });
  const put = stored.outbox.put(step("stored", broken));
  await passes();
  expect([await put, stored.told.done, stored.told.aside]).toEqual([{ stored: true, id: "stored" }, ["stored"], []]);
  const lost = box();
  const other = lost.outbox.put(step("lost", broken));
  await passes();
  expect([await other, lost.told.aside]).toEqual([{ stored: false, reason: "broken", told: true }, ["lost"]]);
});

test("what is refused holds up nothing, and what asks is sent again as it is answered", async () => {
  const again = step("again", async () => done);
  const { outbox, told } = box({ asks: async () => again });
  const first = outbox.put(
    step("refused", async () => {
      throw new ApiError(422, "no such key");
    }),
  );
  const second = outbox.put(
    step("asks", async () => {
      throw new ApiError(422, "planted", { asks: true });
    }),
  );
  await passes();
  expect(await first).toEqual({
    stored: false,
    reason: "no such key",
    told: false,
    error: new ApiError(422, "no such key"),
  });
  expect(await second).toMatchObject({ stored: true });
  expect(told.done).toEqual(["again"]);
});

test("a step waits for whose it is, and holds up nobody else", async () => {
  person = "maud";
  const asked: string[] = [];
  const { outbox, told } = box({ elsewhere: (of, now) => void asked.push(`${of.by} not ${now}`) });
  const hers = outbox.put(step("isla's", async () => done));
  const mine = outbox.put(step("maud's", async () => done, "maud"));
  await passes(3000);
  expect([await mine, told.done, asked]).toEqual([{ stored: true, id: "maud's" }, ["maud's"], ["isla not maud"]]);
  person = "isla";
  await passes();
  expect([await hers, told.done]).toEqual([{ stored: true, id: "isla's" }, ["maud's", "isla's"]]);
});

test("a clash asks, and nothing is stored where nothing takes its place", async () => {
  const asked: number[] = [];
  const { outbox } = box({ clash: async (_, error) => (asked.push(error.status), null) });
  person = "isla";
  const put = outbox.put(
    step("one", async () => {
      throw new ApiError(409, "Maud moved the key");
    }),
  );
  await passes();
  expect([await put, asked]).toEqual([{ stored: false, reason: "Maud moved the key", told: true }, [409]]);
});

test("names of steps are never twice the same", () => {
  const names = new Set(Array.from({ length: 1000 }, newId));
  expect(names.size).toBe(1000);
  for (const name of names) expect(name).toMatch(/^[\da-f]{32}$/);
});
