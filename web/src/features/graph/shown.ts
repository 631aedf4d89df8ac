// Which curves the graph shows, what they are called, and how their values are told.
import { FACTS } from "../../api/facts.gen";
import { addressIn, parted } from "../../model/layers";
import type { Member } from "../../desk/store";
import { DEGREES } from "../../model/units";
import { curveOf, keyCount, type Table, VALUE, WIDTH } from "../../model/curves";
import { foundBy } from "../../model/finding";
import type { Channel } from "../../model/types";
import type { Inks } from "../../theme";

export interface Shown {
  address: string;
  /** Of which control, what the channel is called, and its side. */
  control: string;
  name: string;
  channel: string;
  side: string;
  kind: Channel["kind"];
  /** The axis of a place or turn; empty for what has none. */
  axis: string;
  /** The other side where its curve lies on this one all along; else empty. */
  liesOn: string;
  /** The layer whose curve it is; 0 for the motion itself. */
  layer: number;
  table: Table;
  colour: string;
  dash: number[];
  width: number;
  /** By what a value is multiplied to be drawn, and what is then added. */
  scale: number;
  shift: number;
  /** The same without the normalised view, to be told, and its unit. */
  factor: number;
  unit: string;
  /** As it plays where its keys are derived from others: pairs of a frame and a value. */
  derived: number[];
}

const FACTORS: Record<string, [number, string]> = { rad: [DEGREES, "°"], m: [100, " cm"], "": [100, "%"] };
const DASHES: Record<string, number[]> = { x: [], y: [8, 3], z: [2, 3] };

const axisOf = (name: string) => (/^[tr][xyz]$/.test(name) ? name[1] : "");

/** Curves of channels of some controls that have keys: of the motion, or of a layer with its weight. */
export function shownOf(
  member: Member,
  controls: string[],
  layer: number,
  filter: string,
  normal: boolean,
  ink: Inks,
): Shown[] {
  const wanted = new Set(controls);
  const words = filter.trim();
  const found: Shown[] = [];
  const add = (
    address: string,
    control: string,
    name: string,
    channel: string,
    side: string,
    own: string,
    unit: string,
    kind: Channel["kind"] = "extra",
  ) => {
    const table = curveOf(member.clip, address);
    if (!table) return;
    // With nobody chosen all would be shown: only what goes anywhere then.
    if (!wanted.size && !words.length && own !== "weight" && still(table)) return;
    const [factor, word] = FACTORS[unit] ?? [1, unit && ` ${unit}`];
    const axis = axisOf(own);
    const colour = axis ? { x: ink.axisX, y: ink.axisY, z: ink.axisZ }[axis]! : ink.ink;
    const [low, high] = boundsOf(table);
    const scale = normal ? 100 / Math.max(high - low, 1e-9) : factor;
    found.push({
      address,
      control,
      name,
      channel,
      side,
      kind,
      axis,
      liesOn: "",
      layer,
      table,
      colour,
      dash: axis ? DASHES[axis] : [10, 3, 2, 3],
      width: own[0] === "t" ? 2.2 : 1.5,
      scale,
      shift: normal ? -low * scale : 0,
      factor,
      unit: word,
      derived: layer ? [] : derivedOf(member, address),
    });
  };
  if (layer) add(addressIn(layer, "weight"), "", "Layer", "weight", "", "weight", "");
  // How ways are gone, where nobody is chosen: it is of no control.
  if (!layer && !wanted.size)
    for (const [name, { label, unit }] of Object.entries(FACTS.quantities))
      add(
        `${FACTS.ofQuantity}${name}`,
        "",
        "Way",
        label,
        "",
        "weight",
        unit === "m/s" || unit === "steps/s" ? unit : unit.startsWith("%") ? "" : unit,
      );
  for (const control of member.rig.controls) {
    if (wanted.size && !wanted.has(control.name)) continue;
    for (const channel of member.rig.channels.slice(control.first, control.first + control.count))
      if (!channel.locked)
        add(
          addressIn(layer, channel.address),
          control.name,
          control.label,
          channel.label,
          control.side,
          channel.name,
          channel.unit,
          channel.kind,
        );
  }
  const shown = foundBy(words, found, ({ name, channel, side, axis, kind }) => ({
    control: name,
    channel,
    kind,
    axis,
    side,
  }));
  const byAddress = new Map(shown.map((curve) => [curve.address, curve]));
  for (const curve of shown) {
    const other = member.controls.get(curve.control)?.other;
    const twin = other && byAddress.get(curve.address.replace(`${curve.control}/`, `${other}/`));
    if (twin && twin !== curve && alike(curve.table, twin.table)) curve.liesOn = twin.side;
  }
  return shown;
}

/** Whether two curves are drawn as one line. */
function alike(one: Table, other: Table): boolean {
  if (one.length !== other.length) return false;
  for (let n = 0; n < one.length; n++) if (Math.abs(one[n] - other[n]) > 1e-9) return false;
  return true;
}

const bounds = new WeakMap<Table, [number, number]>();
/** The least and the greatest value of a curve's keys. */
export function boundsOf(table: Table): [number, number] {
  let found = bounds.get(table);
  if (!found) {
    found = [Infinity, -Infinity];
    for (let n = 0; n < keyCount(table); n++) {
      found[0] = Math.min(found[0], table[n * WIDTH + VALUE]);
      found[1] = Math.max(found[1], table[n * WIDTH + VALUE]);
    }
    bounds.set(table, found);
  }
  return found;
}

/** Whether a curve keeps one value. */
function still(table: Table): boolean {
  const [low, high] = boundsOf(table);
  return high - low < 1e-9;
}

/** In whose axes the values of a channel are read: said of a place or turn that something carries. */
export function axesSaid(member: Member, address: string): string {
  const { own } = parted(address);
  const channel = member.rig.channels[member.channels.get(own) ?? -1];
  if (!channel || (channel.kind !== "place" && channel.kind !== "turn")) return "";
  const control = member.controls.get(own.slice(0, own.lastIndexOf("/")));
  const parent = control && member.controls.get(control.parent);
  return parent ? `in the axes of ${parent.label}` : "in the world's axes";
}

export const told = (shown: Shown, value: number) =>
  `${(value * shown.factor).toFixed(1).replace("-", "−")}${shown.unit}`;

/** Frames that show others, with the values that play there. */
function derivedOf(member: Member, address: string): number[] {
  const number = member.channels.get(address);
  const found: number[] = [];
  if (number === undefined) return found;
  for (const { first, last } of member.clip.follows)
    for (let f = first; f <= Math.min(last, member.motion.last); f++) found.push(f, member.motion.valueAt(f, number));
  return found;
}
