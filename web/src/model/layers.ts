// Layers in a clip: where they keep what they add, and what they are known by.
import { FACTS } from "../api/facts.gen";
import type { Clip, Layer } from "./types";

const { mark } = FACTS.layers;

/** The track of what a layer is known by. */
export const trackOf = (layer: number) => `${FACTS.layers.track}/${layer}`;

/** Where a layer keeps what it adds to a channel; the channel itself for the motion below all (0). */
export const addressIn = (layer: number, address: string) => (layer ? `${mark}${layer}/${address}` : address);

/** The layer of an address (0: none) and the channel's own. */
export function parted(address: string): { layer: number; own: string } {
  // A quantity by which somebody goes is of no channel, and of no layer that could be posed in.
  if (address.startsWith(FACTS.ofQuantity)) return { layer: -1, own: address };
  const found = address.startsWith(mark) ? /^.(\d+)\/(.+)$/s.exec(address) : null;
  return found ? { layer: Number(found[1]), own: found[2] } : { layer: 0, own: address };
}

/** The number that a layer more gets: one that none has, of those that have left keys behind either. */
export const freeNumber = (clip: Clip): number =>
  1 +
  Math.max(0, ...layersOf(clip).map(({ number }) => number), ...Object.keys(clip.curves).map((a) => parted(a).layer));

/** The layers of a clip, the uppermost first. */
export function layersOf(clip: Clip): { number: number; layer: Layer }[] {
  return Object.entries(clip.tracks)
    .filter(([track, spans]) => track.startsWith(`${FACTS.layers.track}/`) && spans.length)
    .map(([track, spans]) => ({
      number: Number(track.slice(FACTS.layers.track.length + 1)),
      layer: spans[0] as unknown as Layer,
    }))
    .sort((a, b) => b.layer.place - a.layer.place || b.number - a.number);
}
