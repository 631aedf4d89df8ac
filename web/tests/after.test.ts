import { expect, it } from "vitest";
import { unlessGone } from "../src/desk/after";
import { desk, setDesk } from "../src/desk/store";

const begin = () => {
  setDesk({ activeId: 1, frame: 8, selection: ["head"] });
  const done: string[] = [];
  return { done, after: unlessGone(() => done.push("done")) };
};

it("does what follows a step once it is stored, and not where it was refused", () => {
  const { done, after } = begin();
  expect(after(false)).toBe(false);
  expect(done).toEqual([]);
  expect(after(true)).toBe(true);
  expect(done).toEqual(["done"]);
});

it.each([{ frame: 40 }, { activeId: 2 }, { selection: ["neck"] }])(
  "leaves a hand alone that has gone on: %o",
  (now) => {
    const { done, after } = begin();
    setDesk(now);
    expect(after(true)).toBe(true);
    expect(done).toEqual([]);
    expect(desk()).toMatchObject(now);
  },
);
