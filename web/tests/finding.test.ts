import { expect, it } from "vitest";
import { type Findable, foundBy } from "../src/model/finding";

const of = (control: string, channel: string, kind: Findable["kind"], axis = "", side = ""): Findable => ({
  control, channel, kind, axis, side,
}); // prettier-ignore
const all = [
  of("head", "nod", "turn", "x"),
  of("head", "turn", "turn", "y"),
  of("master", "heading", "turn", "y"),
  of("left foot", "height", "place", "y", "L"),
  of("left foot", "roll", "extra", "", "L"),
  of("right foot", "height", "place", "y", "R"),
];
const named = (typed: string) => foundBy(typed, all, (one) => one).map((one) => `${one.control} ${one.channel}`);

it("takes whole words first, so that a head is no heading and a turn no group of turns", () => {
  expect(named("head turn")).toEqual(["head turn"]);
  expect(named("head")).toEqual(["head nod", "head turn"]);
  expect(named("headi")).toEqual(["master heading"]);
});

it("knows the words that people bring along, axes and sides", () => {
  expect(named("rotate head")).toEqual(["head nod", "head turn"]);
  expect(named("turn foot")).toEqual([]);
  expect(named("rotate head y")).toEqual(["head turn"]);
  expect(named("translate foot")).toEqual(["left foot height", "right foot height"]);
  expect(named("L foot height")).toEqual(["left foot height"]);
  expect(named("RIGHT  Foot")).toEqual(["right foot height"]);
});

it("shows all where nothing is typed, and nothing where nothing is called so", () => {
  expect(named(" ").length).toBe(all.length);
  expect(named("tail")).toEqual([]);
  expect(named("!?")).toEqual(named(""));
});
