// The playhead: going to frames, and playing by the clock.
import { keyFrames } from "../model/columns";
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
  const frames = [...new Set([...keyFrames(member), ...Object.keys(member.clip.pending).map(Number)])].sort(
    (a, b) => a - b,
  );
  const { frame } = desk();
  const next = direction > 0 ? frames.find((f) => f > frame) : frames.reverse().find((f) => f < frame);
  if (next !== undefined) go(next);
  else
    say(
      frames.length
        ? `There is no ${direction > 0 ? "later" : "earlier"} key.`
        : "There are no keys yet: pose, then press K.",
    );
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
