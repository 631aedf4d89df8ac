import { describe, expect, it } from "vitest";
import { awayOf, nothingOwn, readOwn, withGroup } from "../src/model/groups";
import type { Control } from "../src/model/types";

const control = (name: string, kind = "extra") => ({ name, kind }) as Control;
const controls = [control("hand", "fk"), control("coat_l"), control("coat_r"), control("hair")];
const suggested = [
  { name: "Coat", controls: ["coat_l", "coat_r"] },
  { name: "Hair", controls: ["hair"] },
];
const late = (one: Control) => one.kind === "extra";
const away = (own = nothingOwn()) => [...awayOf(controls, suggested, late, own)].sort();

describe("groups of controls", () => {
  it("are out of the way at first where they hold what moves late, and are shown one by one", () => {
    expect(away()).toEqual(["coat_l", "coat_r", "hair"]);
    expect(away({ ...nothingOwn(), suggested: { Hair: false } })).toEqual(["coat_l", "coat_r"]);
  });

  it("hide what they hold, also what another one shows", () => {
    const own = withGroup(nothingOwn(), " Mine ", ["hand", "hand", "hair"]);
    expect(own.groups).toEqual([{ name: "Mine", controls: ["hand", "hair"], hidden: false }]);
    own.groups[0].hidden = true;
    expect(away({ ...own, suggested: { Hair: false, Coat: false } })).toEqual(["hair", "hand"].sort());
    expect(away({ ...nothingOwn(), away: ["hand"], suggested: { Coat: false, Hair: false } })).toEqual(["hand"]);
  });

  it("are one of a name: the later takes the place of the earlier", () => {
    const twice = withGroup(withGroup(nothingOwn(), "Mine", ["hand"]), "Mine", ["hair"]);
    expect(twice.groups).toEqual([{ name: "Mine", controls: ["hair"], hidden: false }]);
  });

  it("are read as far as they are understood", () => {
    const own = {
      groups: [{ name: "Mine", controls: ["hand", 3], hidden: true }, 7],
      suggested: { Hair: false, x: 1 },
    };
    expect(readOwn({ 12: own, later: {}, 13: null })).toEqual({
      12: { groups: [{ name: "Mine", controls: ["hand"], hidden: true }], suggested: { Hair: false }, away: [] },
    });
    expect(readOwn("odd")).toEqual({});
    expect(readOwn(undefined)).toEqual({});
  });
});
