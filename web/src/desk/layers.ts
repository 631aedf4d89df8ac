// Layers of the open take: adjustments over a motion, each with curves of its own beside the others.
import { desk, type DeskState, type Member } from "./store";
import type { AnyEdit, Clip, Layer } from "./types";

/** Kinds of edit that set poses: they are made in the layer that the character is posed in. */
const POSES = new Set<AnyEdit["kind"]>([
  "pose",
  "by hand",
  "arc",
  "reset",
  "key",
  "breakdown",
  "exaggerate",
  "mirror",
  "lay",
  "paste",
  "pull",
  "weight",
  "bring",
]);

/** Where a layer keeps what it adds to a channel; the channel itself for the motion below all (0). */
export const addressIn = (layer: number, address: string) => (layer ? `#${layer}/${address}` : address);

/** The layer of an address (0: none) and the channel's own. */
export function parted(address: string): { layer: number; own: string } {
  const found = /^#(\d+)\/(.+)$/s.exec(address);
  return found ? { layer: Number(found[1]), own: found[2] } : { layer: 0, own: address };
}

/** The layers of a clip, the uppermost first. */
export function layersOf(clip: Clip): { number: number; layer: Layer }[] {
  return Object.entries(clip.tracks)
    .filter(([track, spans]) => track.startsWith("layer/") && spans.length)
    .map(([track, spans]) => ({ number: Number(track.slice(6)), layer: spans[0] as unknown as Layer }))
    .sort((a, b) => b.layer.place - a.layer.place || b.number - a.number);
}

/** The layer that a character is posed in now; 0 is the motion below all. */
export function layerOf(member: Member | undefined, s: DeskState = desk()): number {
  const wished = member ? (s.layers[member.id] ?? 0) : 0;
  return wished && member?.clip.tracks[`layer/${wished}`]?.length ? wished : 0;
}

/** An edit as it is sent: with the layer that it is made in. */
export function withLayer(edit: AnyEdit, member: Member | undefined) {
  const layer = edit.layer ?? (POSES.has(edit.kind) ? layerOf(member) : 0);
  return { ...edit, layer };
}
