// The keys of commands as the person who is signed in has them.
import { type Bindings, boundKeys, type Keyed, keysFromJson, shipped, shownKey, usualKeys } from "../model/bindings";
import { keep } from "./keeping";
import { desk, setDesk, useDesk } from "./store";

export const COMMAND_IDS: ReadonlySet<string> = new Set(Object.keys(shipped("both")));

const made = new WeakMap<Keyed, Bindings>();
/** The keys as they are now, by command. */
export function keysNow(keyed = desk().keyed): Bindings {
  let found = made.get(keyed);
  if (!found) made.set(keyed, (found = boundKeys(keyed)));
  return found;
}
export const usePressable = (): string[] => Object.values(keysNow(useDesk((s) => s.keyed))).flat();

/** The key of a command, as it is written; nothing where it has none. */
export const keySaid = (id: string): string => (keysNow()[id] ?? []).map(shownKey).join(", ");
/** A title with the key of a command behind it. */
export function titled(title: string, id: string): string {
  const said = keySaid(id);
  return said ? (title ? `${title} (${said})` : said) : title;
}

/** The person has the keys so from now on. */
export function haveKeys(keyed: Keyed) {
  setDesk({ keyed });
  void keep("keys", keyed);
}

/** What was kept of a person's keys; those that ship where it is none. */
export function readKeys(kept: unknown) {
  let keyed = usualKeys();
  try {
    if (kept) keyed = keysFromJson(kept, COMMAND_IDS);
  } catch {
    // Kept by a later version: the keys that ship are had.
  }
  setDesk({ keyed });
}
