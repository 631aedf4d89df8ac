// Taking over what steps changed of a clip: curves, pending poses, names and spans.
import type { Clip, StepDone } from "./types";

export type ClipChange = StepDone["clips"][string];

/** A clip as it is after a change. */
export function taken(clip: Clip, change: ClipChange): Clip {
  const curves = change.all ? {} : { ...clip.curves };
  for (const [channel, { removed, rows, whole, moved }] of Object.entries(change.curves)) {
    if (moved) {
      const to = new Map(removed.map((frame, n) => [frame, moved[n]]));
      const now = (curves[channel] ?? []).map(([frame, ...rest]) => [to.get(frame) ?? frame, ...rest]);
      curves[channel] = now.sort((a, b) => a[0] - b[0]);
      continue;
    }
    const gone = new Set([...removed, ...rows.map((row) => row[0])]);
    const kept = whole ? [] : (curves[channel] ?? []).filter((row) => !gone.has(row[0]));
    curves[channel] = [...kept, ...rows].sort((a, b) => a[0] - b[0]);
    if (!curves[channel].length) delete curves[channel];
  }
  const pending = change.all ? {} : { ...clip.pending };
  for (const [frame, values] of Object.entries(change.pending)) {
    if (values) pending[frame] = values;
    else delete pending[frame];
  }
  return {
    curves,
    pending,
    labels: change.labels ?? clip.labels,
    tracks: change.tracks ?? clip.tracks,
    follows: change.follows ?? clip.follows,
    poses: change.poses,
  };
}
