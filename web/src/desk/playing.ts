// The playhead: going to frames, and playing by the clock.
import { keyFrames, keyFramesOf } from "../model/columns";
import { cycleAt } from "../model/types";
import { showFrame } from "./frames";
import { motionShown } from "./other";
import { say } from "./steps";
import { active, desk, playhead, setDesk, shown } from "./store";

export function go(frame: number) {
  const { shot, playing } = desk();
  if (!shot) return;
  if (playing) stop();
  void showFrame(Math.min(Math.max(Math.round(frame), shot.start), shot.end));
}

export function goToKey(direction: 1 | -1) {
  const member = active();
  if (!member) return;
  const waiting = Object.keys(member.clip.pending).map(Number);
  goAlong([...keyFrames(member), ...waiting], direction, "There are no keys yet: pose, then key it.");
}

/** To the next key of what is selected, and of nothing else. */
export function goToOwnKey(direction: 1 | -1) {
  const member = active();
  const { selection } = desk();
  if (!member) return;
  if (!selection.length) return say("Select what has the keys: these go from one of its keys to the next.");
  goAlong(keyFramesOf(member, new Set(selection)), direction, "What is selected has no keys yet.");
}

function goAlong(frames: number[], direction: 1 | -1, none: string) {
  const { frame } = desk();
  const beyond = frames.filter((f) => (direction > 0 ? f > frame : f < frame));
  if (!frames.length) say(none);
  else if (!beyond.length) say(`There is no ${direction > 0 ? "later" : "earlier"} key.`);
  else go(beyond.reduce((a, b) => (direction > 0 ? Math.min(a, b) : Math.max(a, b))));
}

/** To the same phase of the cycle's next turn, or of the one before. */
export function goToPhase(direction: 1 | -1) {
  const member = active();
  const { shot, frame } = desk();
  if (!member || !shot) return;
  const cycle = cycleAt(member.clip, frame);
  if (!cycle) return say("No cycle plays on this frame; make one in Block, Cycle.");
  const to = frame + direction * (cycle.end - cycle.start);
  if (to < cycle.start || to > cycle.until || to < shot.start || to > shot.end)
    return say(`The cycle has no turn ${direction > 0 ? "after" : "before"} this one.`);
  go(to);
}

let started = 0;
let lastShown = 0;
let marks: number[] = [];
export function play() {
  const { shot, frame } = desk();
  if (!shot) return;
  const first = frame >= shot.play_start && frame < shot.play_end ? frame : shot.play_start;
  started = performance.now() - ((first - shot.play_start) / shot.fps) * 1000;
  lastShown = first;
  marks = [];
  playhead.dropped = 0;
  setDesk({ playing: true });
  shown();
}

export function stop() {
  if (!desk().playing) return;
  setDesk({ playing: false });
  void showFrame(playhead.frame);
}

export const playOrStop = () => (desk().playing ? stop() : play());

/** Called by the stage for every picture it can draw: moves on by the clock, never by the number of pictures. */
export function tick(now: number): boolean {
  const { shot, playing, cast } = desk();
  if (!playing || !shot) return false;
  const length = shot.play_end - shot.play_start + 1;
  const passed = Math.floor(((now - started) / 1000) * shot.fps);
  const frame = shot.play_start + (passed % length);
  if (frame === lastShown && marks.length) return false;
  const skipped = ((frame - lastShown + length) % length) - 1;
  if (marks.length && skipped > 0) playhead.dropped += skipped;
  marks.push(now);
  while (marks.length > 2 && now - marks[0] > 1500) marks.shift();
  playhead.rate = marks.length > 1 ? ((marks.length - 1) * 1000) / (now - marks[0]) : 0;
  lastShown = frame;
  playhead.frame = frame;
  for (const member of cast) motionShown(member).show(frame, member.pose);
  shown();
  return true;
}
