// Groups of controls that a person hides and shows together: own ones, and those that the character suggests.
import type { Schemas } from "../api/client";
import type { Control } from "./types";

export type Suggested = Schemas["RigOut"]["groups"][number];

/** A group that the person has made. */
export interface OwnGroup {
  name: string;
  controls: string[];
  hidden: boolean;
}

/** What a person has set of one of the cast, in one shot. */
export interface Own {
  groups: OwnGroup[];
  /** Which of the suggested groups are hidden, by name, where that is not as usual. */
  suggested: Record<string, boolean>;
  /** Controls that are put away one by one. */
  away: string[];
}

export const nothingOwn = (): Own => ({ groups: [], suggested: {}, away: [] });

/** What moves late in the work is out of the way until it is wanted; anything else is shown. */
export const hiddenAtFirst = (group: Suggested, controls: readonly Control[]): boolean => {
  const inside = new Set(group.controls);
  return controls.every((control) => !inside.has(control.name) || control.kind === "extra");
};

export const suggestedHidden = (group: Suggested, controls: readonly Control[], own?: Own): boolean =>
  own?.suggested[group.name] ?? hiddenAtFirst(group, controls);

/**
 * The controls that are hidden. One of a suggested group goes by that and not by its part of the body; in an own group
 * that is hidden, or put away by itself, it is hidden in any case.
 */
export function awayOf(
  controls: readonly Control[],
  suggested: readonly Suggested[],
  byPart: (control: Control) => boolean,
  own?: Own,
): Set<string> {
  const away = new Set(controls.filter(byPart).map((control) => control.name));
  for (const group of suggested) {
    const hidden = suggestedHidden(group, controls, own);
    for (const name of group.controls)
      if (hidden) away.add(name);
      else away.delete(name);
  }
  for (const name of own?.away ?? []) away.add(name);
  for (const group of own?.groups ?? []) if (group.hidden) for (const name of group.controls) away.add(name);
  return away;
}

const LONGEST = 60;
const MOST = 100;

const names = (found: unknown): string[] =>
  Array.isArray(found) ? found.filter((name): name is string => typeof name === "string") : [];

/** What was kept, as far as it is understood. */
export function readOwn(kept: unknown): Record<number, Own> {
  const found: Record<number, Own> = {};
  if (typeof kept !== "object" || kept === null) return found;
  for (const [casting, value] of Object.entries(kept)) {
    const one = value as Partial<Record<keyof Own, unknown>> | null;
    if (!Number.isInteger(Number(casting)) || typeof one !== "object" || one === null) continue;
    const groups = (Array.isArray(one.groups) ? one.groups : []).slice(0, MOST) as Partial<OwnGroup>[];
    found[Number(casting)] = {
      groups: groups.flatMap((group) =>
        typeof group?.name === "string"
          ? [{ name: group.name.slice(0, LONGEST), controls: names(group.controls), hidden: group.hidden === true }]
          : [],
      ),
      suggested: Object.fromEntries(
        Object.entries(one.suggested ?? {}).filter((pair): pair is [string, boolean] => typeof pair[1] === "boolean"),
      ),
      away: names(one.away),
    };
  }
  return found;
}

/** With a group of this name in place of one that was called so. */
export function withGroup(own: Own, name: string, controls: string[]): Own {
  const group = { name: name.trim().slice(0, LONGEST), controls: [...new Set(controls)], hidden: false };
  return { ...own, groups: [...own.groups.filter((one) => one.name !== group.name), group].slice(-MOST) };
}
