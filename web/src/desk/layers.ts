// Layers of the open take: adjustments over a motion, each with curves of its own beside the others.
import { FACTS } from "../api/facts.gen";
import { trackOf } from "../model/layers";
import { desk, type DeskState, type Member, setDesk } from "./store";
import type { AnyEdit } from "../model/types";

/** Kinds of edit that set poses: they are made in the layer that the character is posed in. */
const POSES: ReadonlySet<string> = new Set(FACTS.poses);

/** The layer that a character is posed in now; 0 is the motion below all. */
export function layerOf(member: Member | undefined, s: DeskState = desk()): number {
  const wished = member ? (s.layers[member.id] ?? 0) : 0;
  return wished && member?.clip.tracks[trackOf(wished)]?.length ? wished : 0;
}

/** From now on a character is posed in a layer; keys that were chosen lie in another. */
export const poseIn = (member: Member, layer: number) =>
  setDesk({ layers: { ...desk().layers, [member.id]: layer }, keysChosen: {}, keysBeside: {} });

/** Whether an edit can be made in a layer. */
export const inLayers = (edit: AnyEdit) => POSES.has(edit.kind);

/** An edit as it is sent: with the layer that it is made in. */
export function withLayer(edit: AnyEdit, member: Member | undefined) {
  const layer = edit.layer ?? (POSES.has(edit.kind) ? layerOf(member) : 0);
  return { ...edit, layer };
}
