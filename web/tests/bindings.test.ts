import { describe, expect, test, vi } from "vitest";
import {
  boundKeys,
  commandOf,
  KEY_SETS,
  keyOfEvent,
  keysFromJson,
  keysToJson,
  rebound,
  refused,
  shipped,
  shownKey,
  usualKeys,
} from "../src/model/bindings";

vi.stubGlobal("window", { addEventListener: () => undefined });
const { COMMANDS } = await import("../src/desk/commands");

const ids = Object.keys(shipped("both"));
const all = new Set(ids);
/** Keys that no set ships. */
const free = ["f2", "mod+shift+f2", "alt+i", "shift+alt+i", "mod+i"];
const pressed = (code: string, held = {}) =>
  keyOfEvent({ code, shiftKey: false, ctrlKey: false, metaKey: false, altKey: false, ...held });

describe("the sets that ship", () => {
  test("are of the commands that there are", () => {
    expect(COMMANDS.map(({ id }) => id)).toEqual(ids);
  });

  test("give every command a key of its own, and none that cannot be given", () => {
    for (const set of KEY_SETS) {
      const bound = shipped(set);
      expect(Object.keys(bound).sort()).toEqual([...ids].sort());
      const keys = Object.values(bound).flat();
      expect(new Set(keys).size).toBe(keys.length);
      expect(keys.filter(refused)).toEqual([]);
      expect(Object.values(bound).every((own) => own.length === 1)).toBe(true);
    }
  });

  test("one of them lies under the left hand", () => {
    const left = new Set([..."12345qwertasdfgzxcvb", "space", "backquote"]);
    const beyond = Object.values(shipped("left"))
      .flat()
      .filter((key) => !left.has(key.split("+").at(-1)!));
    expect(beyond).toEqual([]);
  });
});

test("every command is given another key once, and no other loses its own", () => {
  for (const set of KEY_SETS)
    for (const id of ids)
      for (const key of free) {
        const now = boundKeys(rebound({ ...usualKeys(), set }, id, key));
        expect(commandOf(now, key)).toBe(id);
        expect(now[id]).toEqual([key]);
        for (const other of ids) if (other !== id) expect(now[other]).toEqual(shipped(set)[other]);
      }
});

test("a key that another command has is taken from it", () => {
  const now = boundKeys(rebound(usualKeys(), "play", "k"));
  expect(commandOf(now, "k")).toBe("play");
  expect(now.key).toEqual([]);
  expect(commandOf(now, "space")).toBeUndefined();
  expect(boundKeys(rebound(usualKeys(), "play", null)).play).toEqual([]);
});

test("each set is changed for itself", () => {
  const keyed = rebound(usualKeys(), "play", "f2");
  expect(boundKeys({ ...keyed, set: "left" }).play).toEqual(shipped("left").play);
});

test("keys that leave, enter or are the browser's are not given", () => {
  for (const key of ["escape", "enter", "tab", "mod+w", "mod+t", "mod+1", "shift", "", "alt+f4", "slash"])
    expect(refused(key), key).not.toBe("");
  for (const key of ["w", "shift+1", "mod+k", "f2", "alt+z"]) expect(refused(key), key).toBe("");
});

test("a press is named as it is bound", () => {
  expect(pressed("KeyK")).toBe("k");
  expect(pressed("Digit1", { shiftKey: true })).toBe("shift+1");
  expect(pressed("ArrowLeft", { shiftKey: true, ctrlKey: true })).toBe("mod+shift+arrowleft");
  expect(pressed("KeyK", { metaKey: true })).toBe("mod+k");
  expect(pressed("ShiftLeft", { shiftKey: true })).toBe("");
  expect(shownKey("mod+shift+arrowleft")).toBe("Ctrl+Shift+←");
  expect(shownKey("comma")).toBe(",");
});

describe("a file of keys", () => {
  test("brings back what was put out", () => {
    const keyed = rebound(rebound(usualKeys(), "play", "k"), "undo", "f2");
    expect(keysFromJson(JSON.parse(keysToJson(keyed)), all)).toEqual(keyed);
    const left = { ...keyed, set: "left" as const };
    expect(keysFromJson(JSON.parse(keysToJson(left)), all).set).toBe("left");
  });

  test("is refused where it gives one key twice, or what is none; strange commands are passed over", () => {
    const own = (both: object) => ({ kind: "hame-keys", set: "both", own: { both, left: {} } });
    expect(() => keysFromJson(own({ play: ["k"] }), all)).toThrow("K is given to two commands");
    expect(() => keysFromJson(own({ play: ["escape"] }), all)).toThrow("none that can be given");
    expect(() => keysFromJson(own({ play: "k" }), all)).toThrow("none that can be given");
    expect(() => keysFromJson({ kind: "poses" }, all)).toThrow("no keys of Hame's");
    expect(() => keysFromJson(null, all)).toThrow("no keys of Hame's");
    expect(keysFromJson(own({ dance: ["f2"] }), all)).toEqual(usualKeys());
  });
});
