// Which keys a command has: two sets that ship, what a person changed in each, and what may be a key at all.

/** Keys by command; none is a command without a key. */
export type Bindings = Record<string, string[]>;
export const KEY_SETS = ["both", "left"] as const;
export type KeySet = (typeof KEY_SETS)[number];
/** What a person changed, by set. */
export type OwnKeys = Record<KeySet, Bindings>;

/** How a person has the keys. */
export interface Keyed {
  set: KeySet;
  own: OwnKeys;
}

export const usualKeys = (): Keyed => ({ set: "both", own: { both: {}, left: {} } });

/** The keys of a set, for the commands in their order. */
export const shipped = (set: KeySet): Bindings => SHIPPED[set];

/** The keys as a person has them. */
export const boundKeys = ({ set, own }: Keyed): Bindings => ({ ...SHIPPED[set], ...own[set] });

/** The command that a key is of. */
export const commandOf = (bound: Bindings, key: string): string | undefined =>
  Object.keys(bound).find((id) => bound[id].includes(key));

/** A command given a key alone, which is taken from another that had it. */
export function rebound(keyed: Keyed, id: string, key: string | null): Keyed {
  const bound = boundKeys(keyed);
  const changed: Bindings = { ...keyed.own[keyed.set], [id]: key ? [key] : [] };
  const other = key ? commandOf(bound, key) : undefined;
  if (other && other !== id) changed[other] = bound[other].filter((k) => k !== key);
  return { ...keyed, own: { ...keyed.own, [keyed.set]: changed } };
}

const LONE = new Set(["escape", "enter", "tab", "slash", "contextmenu", "f5", "f11", "f12"]);
/** Keys with Ctrl that browsers do not give away. */
const TAKEN = new Set(["w", "t", "n", "r", "q", "f4", "tab", ..."1234567890"]);

/** Why a key cannot be given to a command; nothing where it can. */
export function refused(key: string): string {
  const parts = key.split("+");
  const last = parts[parts.length - 1];
  if (!last || ["shift", "mod", "alt"].includes(last)) return "A key beside Shift, Ctrl and Alt is needed.";
  if (LONE.has(last))
    return `${shownKey(key)} is not given away: it leaves, enters, goes from field to field, or opens this.`;
  if (parts.includes("mod") && TAKEN.has(last))
    return `${shownKey(key)} is the browser's own, which does not give it away.`;
  if (parts.includes("alt") && (last === "f4" || ["d", "e", "f"].includes(last)))
    return `${shownKey(key)} opens something of the browser.`;
  return "";
}

/** The name of a key that was pressed, as commands have it: Shift, Ctrl and Alt before what it is. */
export function keyOfEvent(event: {
  code: string;
  shiftKey: boolean;
  ctrlKey: boolean;
  metaKey: boolean;
  altKey: boolean;
}): string {
  const name = event.code.toLowerCase().replace(/^(key|digit|numpad)/, "");
  if (/^(shift|control|alt|meta|os)/.test(name)) return "";
  const held = [
    event.ctrlKey || event.metaKey ? "mod" : "",
    event.shiftKey ? "shift" : "",
    event.altKey ? "alt" : "",
  ].filter(Boolean);
  return [...held, name].join("+");
}

const NAMES: Record<string, string> = {
  mod: "Ctrl",
  shift: "Shift",
  alt: "Alt",
  arrowleft: "←",
  arrowright: "→",
  arrowup: "↑",
  arrowdown: "↓",
  comma: ",",
  period: ".",
  space: "Space",
  backquote: "`",
  minus: "-",
  equal: "=",
  bracketleft: "[",
  bracketright: "]",
  semicolon: ";",
  quote: "'",
  backslash: "\\",
};

/** A key as it is written on keyboards. */
export const shownKey = (key: string) =>
  key
    .split("+")
    .map((part) => NAMES[part] ?? (part.length === 1 ? part.toUpperCase() : part[0].toUpperCase() + part.slice(1)))
    .join("+");

const FORM = "hame-keys";

/** As a file. */
export const keysToJson = (keyed: Keyed) => JSON.stringify({ kind: FORM, version: 1, ...keyed }, null, 2);

/** What a file or the store holds, of the commands that there are. Raises an error that says what is wrong. */
export function keysFromJson(data: unknown, ids: ReadonlySet<string>): Keyed {
  const found = data as Partial<Keyed> & { kind?: string };
  if (!found || typeof found !== "object" || (found.kind !== undefined && found.kind !== FORM))
    throw new Error("This file holds no keys of Hame's. Your keys stay as they were.");
  const set = KEY_SETS.find((name) => name === found.set) ?? "both";
  const own = usualKeys().own;
  for (const name of KEY_SETS)
    for (const [id, keys] of Object.entries(found.own?.[name] ?? {})) {
      if (!ids.has(id)) continue; // a command of another version
      if (!Array.isArray(keys) || !keys.every((key) => typeof key === "string" && !refused(key)))
        throw new Error(`The keys of “${id}” are none that can be given. Your keys stay as they were.`);
      own[name][id] = keys as string[];
    }
  for (const name of KEY_SETS) {
    const bound = boundKeys({ set: name, own });
    const all = Object.values(bound).flat();
    const twice = all.find((key, n) => all.indexOf(key) !== n);
    if (twice) throw new Error(`${shownKey(twice)} is given to two commands there. Your keys stay as they were.`);
  }
  return { set, own };
}

/** One key each, by command. */
const ones = (keys: Record<string, string>): Bindings =>
  Object.fromEntries(Object.entries(keys).map(([id, key]) => [id, [key]]));

const SHIPPED: Record<KeySet, Bindings> = {
  both: ones({
    play: "space",
    "frame back": "arrowleft",
    "frame on": "arrowright",
    "two back": "shift+arrowleft",
    "two on": "shift+arrowright",
    "three back": "mod+arrowleft",
    "three on": "mod+arrowright",
    "key before": "arrowup",
    "key after": "arrowdown",
    "own key before": "shift+arrowup",
    "own key after": "shift+arrowdown",
    "phase before": "mod+arrowup",
    "phase after": "mod+arrowdown",
    "step back": "mod+shift+arrowleft",
    "step on": "mod+shift+arrowright",
    first: "home",
    last: "end",
    key: "k",
    "key all": "mod+k",
    "key whole": "shift+k",
    copy: "mod+c",
    paste: "mod+v",
    "paste over": "shift+u",
    "turn over": "u",
    sheet: "s",
    graph: "v",
    delete: "delete",
    "all columns": "mod+shift+a",
    undo: "mod+z",
    redo: "mod+shift+z",
    "every frame": "z",
    "all time": "e",
    "chosen time": "shift+e",
    "time back": "comma",
    "time on": "period",
    paths: "a",
    move: "m",
    turn: "t",
    pull: "b",
    grip: "l",
    axes: "x",
    pivot: "p",
    "no pivot": "shift+p",
    limb: "i",
    reset: "r",
    "reset all": "shift+r",
    "select all": "mod+a",
    "select below": "d",
    "other side": "o",
    flip: "q",
    front: "1",
    side: "2",
    top: "3",
    back: "4",
    quarter: "5",
    camera: "6",
    centre: "c",
    figure: "w",
    glass: "g",
    hide: "h",
    ghosts: "n",
    full: "f",
  }),
  // For those who draw with the other hand: all of it lies under the left one.
  left: ones({
    play: "space",
    "frame back": "q",
    "frame on": "w",
    "two back": "shift+q",
    "two on": "shift+w",
    "three back": "alt+q",
    "three on": "alt+w",
    "key before": "a",
    "key after": "s",
    "own key before": "shift+a",
    "own key after": "shift+s",
    "phase before": "alt+a",
    "phase after": "alt+s",
    "step back": "shift+alt+q",
    "step on": "shift+alt+w",
    first: "shift+alt+a",
    last: "shift+alt+s",
    key: "e",
    "key all": "mod+e",
    "key whole": "shift+e",
    copy: "mod+c",
    paste: "mod+v",
    "paste over": "shift+v",
    "turn over": "v",
    sheet: "shift+x",
    graph: "shift+c",
    delete: "backquote",
    "all columns": "mod+shift+a",
    undo: "mod+z",
    redo: "mod+shift+z",
    "every frame": "z",
    "all time": "shift+z",
    "chosen time": "alt+z",
    "time back": "alt+x",
    "time on": "alt+c",
    paths: "alt+v",
    move: "d",
    turn: "f",
    pull: "g",
    grip: "t",
    axes: "x",
    pivot: "b",
    "no pivot": "shift+b",
    limb: "r",
    reset: "shift+r",
    "reset all": "shift+alt+r",
    "select all": "mod+a",
    "select below": "shift+d",
    "other side": "shift+f",
    flip: "c",
    front: "1",
    side: "2",
    top: "3",
    back: "4",
    quarter: "5",
    camera: "shift+1",
    centre: "shift+2",
    figure: "shift+3",
    glass: "shift+4",
    hide: "shift+5",
    ghosts: "shift+g",
    full: "shift+t",
  }),
};
