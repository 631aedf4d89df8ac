// What lies under a pixel of the stage: an outline of a control, the skin of a figure, a place for a pivot.
import * as THREE from "three";
import { active, desk, type Member, hiddenOf, toHand } from "../../desk/store";
import type { Figure } from "./figure";
import { casterAt, placeBeside, type Ray } from "./handle";
import type { Outlines } from "./outlines";
import { standOf } from "./standing";
import { spotAlong, spotsOf } from "./zones";

interface Picked {
  member: Member;
  control: string;
}

/** What is looked among: the outlines to hand, and the figures, but for one that is not seen. */
interface Among {
  outlines: Outlines;
  figures: ReadonlyMap<number, Figure>;
  unseen: Member | undefined;
  on: Ray;
}

/** The control under the pointer: its outline, unless that lies well behind the skin, or else that of the skin. */
export function pick(pointer: THREE.Vector2, among: Among): Picked | null {
  const outline = among.outlines.under(pointer, among.on);
  const member = active();
  const best = desk().looks.pickSkin ? skinUnder(pointer, among) : null;
  // Outlines inside the body are meant to be reached; one on its far side is not what was pointed at.
  const behind = best && outline && outline.distance > best.distance + 0.12 * best.member.rig.height;
  if (outline && member && !behind) return { member, control: outline.name };
  if (!best) return null;
  const zone = desk().byZones ? zoneUnder(pointer, among, best) : null;
  if (zone) return { member: best.member, control: zone };
  const [fk, ik] = best.member.rig.picks[best.joint];
  const limb = best.member.controls.get(fk)?.limb;
  const usesIk = limb && best.member.pose.values[best.member.channels.get(`${limb}/ik`) ?? -1] > 0.5;
  return { member: best.member, control: shownAbove(best.member, usesIk ? ik : fk) };
}

/** The zone of a face that is meant where its skin is pressed, however far that lies over what moves it. */
function zoneUnder(pointer: THREE.Vector2, { on }: Among, { member, joint, distance }: Hit): string | null {
  const parts = member.rig.picks[joint].map((name) => member.controls.get(name));
  if (!parts.some((control) => control && (control.name === "head" || control.part === "face"))) return null;
  return spotAlong(casterAt(pointer, on).ray, spotsOf(member), distance, member.rig.height);
}

interface Hit {
  member: Member;
  joint: number;
  distance: number;
  place: THREE.Vector3;
}

/** The place on a prop under a pixel; null where there is none. */
export const surfaceUnder = (pointer: THREE.Vector2, among: Among) =>
  skinUnder(pointer, among, (member) => member.prop)?.place ?? null;

function skinUnder(pointer: THREE.Vector2, { figures, unseen, on }: Among, meant = (_: Member) => true) {
  const caster = casterAt(pointer, on);
  let best: Hit | null = null;
  for (const member of desk().cast) {
    if (member === unseen || desk().seen[member.id] === "hidden" || !meant(member)) continue;
    const hit = figures.get(member.id)?.hit(caster);
    if (hit && (!best || hit.distance < best.distance)) best = { member, ...hit };
  }
  return best;
}

/** Where a pivot dropped at a pixel lies: on the skin, else as far away as the handle; without one, on the handle. */
export function pivotUnder(pointer: THREE.Vector2 | null, among: Among): THREE.Vector3 | null {
  const stand = standOf(among.on);
  if (!pointer || !stand) return stand?.origin ?? null;
  return skinUnder(pointer, among)?.place ?? placeBeside(stand.origin, pointer, among.on);
}

/** The control, or the nearest one that carries it and is not hidden away. */
function shownAbove(member: Member, name: string): string {
  const hidden = hiddenOf(member);
  let control = member.controls.get(name);
  while (control?.parent && !toHand(member, control, hidden)) control = member.controls.get(control.parent);
  return control?.name ?? name;
}
