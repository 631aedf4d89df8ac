// What a hand does on the graph: chooses, moves and reshapes keys, drags handles, pans and zooms. Drawn without React.
import { type Reshape, reshaped, type Table, UNSHAPED, VALUE, valueAt, WIDTH, withHandle } from "../../model/curves";
import { showFrame, showPose } from "../../desk/frames";
import { socket } from "../../desk/opening";
import { go, stop } from "../../desk/playing";
import { commit } from "../../desk/steps";
import { chooseKeys, pointAt } from "../../desk/choosing";
import { endTrial, readOut } from "../../desk/trying";
import { active, canChange, desk, onShow, playhead } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import type { Inks } from "../../theme";
import { handleEnds, type HandleEnd, paint, type Picture } from "./paint";
import { type GripName, gripsOf, regionOf } from "./region";
import { type About, gripped, keysAfter } from "./gripped";
import { curveAt, keyAt, keysInside, NEAR, pixelOf } from "./hits";
import type { Shown } from "./shown";
import { fitChosen, fitPlayed, fitTime, pageTime, placeNow, shiftTime, showInTime, zoomTime } from "../../desk/time";
import { AFTER_LABELS, type Room } from "../../model/time";
import { drawn, frameAt, heightAt, heightsOf, reachOf, undrawn, type View, xOf, yOf, zoomedHeights } from "./view";

type Held =
  | { what: "keys"; x: number; y: number; lock: "" | "time" | "value"; at: number; add: boolean }
  | { what: "grip"; name: GripName; x: number; y: number }
  | { what: "handle"; end: HandleEnd }
  | { what: "box"; x: number; y: number; add: boolean; before: Record<string, number[]> }
  | { what: "pan"; x: number; y: number; view: View }
  | { what: "scrub" };

export type { About } from "./gripped";

export class Board {
  curves: Shown[] = [];
  /** The values that are shown; the frames are those of the time line. */
  private heights: { low: number; high: number } | null = null;
  ink!: Inks;
  about: About = "across";
  /** Milliseconds of script for each drawing of late, for the measurements under bench/. */
  readonly costs: number[] = [];
  private width = 10;
  private height = 10;
  private font = "sans-serif";
  private asked = 0;
  private anchor: { curve: Shown; frame: number } | null = null;
  private held: Held | null = null;
  private previews = new Map<string, Table>();
  private edit: AnyEdit | null = null;
  private box: Picture["box"] = null;
  private readonly stops: (() => void)[] = [];

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly needle: HTMLElement,
    private readonly said: (words: string) => void,
  ) {
    const watch = new ResizeObserver(() => this.resize());
    watch.observe(canvas.parentElement!);
    const wheel = (e: WheelEvent) => this.wheel(e);
    canvas.addEventListener("wheel", wheel, { passive: false });
    this.stops.push(
      () => watch.disconnect(),
      () => canvas.removeEventListener("wheel", wheel),
      onShow(() => this.placeNeedle()),
    );
    this.resize();
  }

  dispose() {
    for (const each of this.stops) each();
    cancelAnimationFrame(this.asked);
  }

  private resize() {
    const box = this.canvas.parentElement!;
    this.width = Math.max(box.clientWidth, 10);
    this.height = Math.max(box.clientHeight, 10);
    this.font = getComputedStyle(box).fontFamily;
    this.draw();
  }

  /** Takes over which curves are shown; a graph that is opened anew shows all of them. */
  show(curves: Shown[], ink: Inks, anew: boolean) {
    this.curves = curves;
    this.ink = ink;
    if (!this.held) this.previews.clear();
    if (anew || !this.heights) this.fitHeights();
    this.draw();
  }

  /** Shows all that there is of the curves, the chosen keys, or what is played, in time and in value. */
  fit(what: "all" | "chosen" | "range") {
    const { shot, keysChosen } = desk();
    if (!shot) return;
    const frames = Object.values(keysChosen).flat();
    const chosen = what === "chosen" && frames.length > 0;
    if (chosen) fitChosen();
    else if (what === "range") fitPlayed();
    else {
      const { first, last } = reachOf(this.curves, shot.start, shot.end);
      fitTime(first, last);
    }
    this.fitHeights(chosen ? keysChosen : undefined);
  }

  private fitHeights(within?: Record<string, number[]>) {
    this.heights = heightsOf(this.curves, within);
    this.draw();
  }

  /** Shifted by a share of what is shown, and zoomed about its middle: for the measurements under bench/. */
  pan(share: number) {
    pageTime(share);
    this.draw();
  }
  zoom(by: number) {
    zoomTime((this.view.first + this.view.last) / 2, by);
    this.draw();
  }

  /** Brings a frame of the shown curves into view. */
  lookAt(frame: number) {
    showInTime(frame);
    this.draw();
  }

  /** Where a key, or the end of its handle, is on the canvas: for tests and measurements. */
  pixelOf(address: string, frame: number, side?: "before" | "after"): [number, number] | null {
    return pixelOf(this.picture(), address, frame, side);
  }

  /** What is shown, up to the edges of the canvas, which begins where the list beside it ends. */
  get view(): View {
    const { timeAt } = placeNow(this.lies);
    return { first: timeAt(0), last: timeAt(this.width), ...(this.heights ?? { low: -1, high: 1 }) };
  }

  private get lies(): Room {
    return { left: AFTER_LABELS, width: this.width };
  }

  private get place() {
    return { view: this.view, width: this.width, height: this.height };
  }

  private picture(): Picture {
    const { keysChosen, pointed, shot } = desk();
    const place = this.place;
    return {
      ...place,
      curves: this.curves,
      chosen: keysChosen,
      held: this.previews,
      pointed,
      frame: playhead.frame,
      box: this.box,
      region: this.held ? null : regionOf(place, this.curves, keysChosen, this.previews),
      playFirst: shot?.play_start ?? 1,
      playLast: shot?.play_end ?? 1,
      ink: this.ink,
      font: this.font,
    };
  }

  draw() {
    if (!this.asked)
      this.asked = requestAnimationFrame(() => {
        this.asked = 0;
        if (!this.heights || !this.ink) return;
        const begun = performance.now();
        paint(this.canvas, this.picture());
        this.placeNeedle();
        this.costs.push(performance.now() - begun);
        if (this.costs.length > 240) this.costs.shift();
      });
  }

  private placeNeedle() {
    this.needle.style.transform = `translateX(${xOf(this.place, playhead.frame)}px)`;
  }

  // Looking

  private wheel(event: WheelEvent) {
    if (!this.heights) return;
    event.preventDefault();
    const { x, y } = this.at(event);
    const by = Math.exp(-event.deltaY * 0.0016);
    if (!event.shiftKey) zoomTime(frameAt(this.place, x), by);
    if (!event.ctrlKey && !event.metaKey) this.heights = zoomedHeights(this.heights, heightAt(this.place, y), by);
    this.draw();
  }

  private at(event: { clientX: number; clientY: number }) {
    const r = this.canvas.getBoundingClientRect();
    return { x: event.clientX - r.left, y: event.clientY - r.top };
  }

  private keyAt(x: number, y: number) {
    return keyAt(this.curves, this.place, x, y, desk().pointed);
  }

  // The hand

  down(event: React.PointerEvent) {
    if (!this.heights) return;
    const { x, y } = this.at(event);
    (event.target as Element).setPointerCapture(event.pointerId);
    if (event.button !== 0) {
      this.held = { what: "pan", x, y, view: this.view };
      return;
    }
    if (y < 15) {
      this.held = { what: "scrub" };
      go(Math.round(frameAt(this.place, x)));
      return;
    }
    const picture = this.picture();
    const editable = canChange();
    const end = handleEnds(picture).find((e) => Math.hypot(e.x - x, e.y - y) < NEAR);
    const key = this.keyAt(x, y);
    if (end && editable && !(key && Math.hypot(end.x - x, end.y - y) > 4)) {
      stop();
      this.held = { what: "handle", end };
      return;
    }
    if (key) {
      this.anchor = key;
      const { keysChosen } = desk();
      const mine = keysChosen[key.curve.address] ?? [];
      const among = mine.includes(key.frame);
      if (event.ctrlKey || event.metaKey)
        return this.choose({ ...keysChosen, [key.curve.address]: mine.filter((f) => f !== key.frame) });
      if (event.shiftKey && !among)
        this.choose({ ...keysChosen, [key.curve.address]: [...mine, key.frame].sort((a, b) => a - b) });
      else if (!among) this.choose({ [key.curve.address]: [key.frame] });
      pointAt(key.curve.address);
      if (editable) this.held = { what: "keys", x, y, lock: "", at: key.frame, add: event.shiftKey };
      return;
    }
    const grip =
      picture.region && gripsOf(picture.region, picture).find(([, gx, gy]) => Math.hypot(gx - x, gy - y) < NEAR);
    if (grip && editable) {
      stop();
      this.held = { what: "grip", name: grip[0], x: grip[1], y: grip[2] };
      return;
    }
    this.held = { what: "box", x, y, add: event.shiftKey, before: event.shiftKey ? desk().keysChosen : {} };
  }

  move(event: React.PointerEvent) {
    if (!this.heights) return;
    const { x, y } = this.at(event);
    const held = this.held;
    if (!held) {
      const curve = this.keyAt(x, y)?.curve ?? curveAt(this.curves, this.place, x, y);
      const pointed = curve?.address ?? "";
      if (pointed !== desk().pointed) {
        pointAt(pointed);
        this.draw();
      }
      this.said(curve ? `${Math.round(frameAt(this.place, x))}` : "");
      return;
    }
    if (held.what === "scrub") go(Math.round(frameAt(this.place, x)));
    if (held.what === "pan") {
      const { view } = held;
      const df = ((x - held.x) / this.width) * (view.last - view.first);
      const dv = ((y - held.y) / this.height) * (view.high - view.low);
      shiftTime(view.first - df - this.view.first);
      this.heights = { low: view.low + dv, high: view.high + dv };
    }
    if (held.what === "box") this.box = { x: held.x, y: held.y, x2: x, y2: y };
    if (held.what === "keys") this.moveKeys(held, x, y, event);
    if (held.what === "grip") this.moveGrip(held, x, y, event);
    if (held.what === "handle") this.moveHandle(held.end, x, y, event.altKey);
    this.draw();
  }

  up(event: React.PointerEvent) {
    const held = this.held;
    this.held = null;
    if (!held) return;
    if (held.what === "box") this.chooseInside(held);
    if (held.what === "keys" && !this.edit && !held.add && !event.ctrlKey) go(held.at);
    if (this.edit) void this.finish();
    this.draw();
  }

  /** Lets go of what is held, and everything is as it was. */
  cancel(): boolean {
    if (!this.held) return false;
    this.held = null;
    this.box = null;
    this.edit = null;
    this.previews.clear();
    endTrial();
    void showFrame(desk().frame);
    this.draw();
    return true;
  }

  private choose(keys: Record<string, number[]>) {
    const kept = Object.fromEntries(Object.entries(keys).filter(([, frames]) => frames.length));
    chooseKeys(kept);
    this.draw();
  }

  private chooseInside(held: Extract<Held, { what: "box" }>) {
    const box = this.box;
    this.box = null;
    if (!box) {
      if (!held.add) this.choose({});
      return;
    }
    this.choose(keysInside(this.curves, this.place, box, held.before));
  }

  // Reshaping

  private chosen(): Shown[] {
    const { keysChosen } = desk();
    return this.curves.filter((curve) => keysChosen[curve.address]?.length);
  }

  private each(value: (curve: Shown) => number): Record<string, number> {
    return Object.fromEntries(this.chosen().map((curve) => [curve.address, value(curve)]));
  }

  private moveKeys(held: Extract<Held, { what: "keys" }>, x: number, y: number, event: React.PointerEvent) {
    const fine = event.shiftKey && this.edit ? 0.2 : 1;
    let [dx, dy] = [(x - held.x) * fine, (y - held.y) * fine];
    if (Math.hypot(x - held.x, y - held.y) < 3 && !this.edit) return;
    // Alt holds to the way that was gone first: along time, or along value.
    if (event.altKey) held.lock ||= Math.abs(dx) > Math.abs(dy) ? "time" : "value";
    else held.lock = "";
    if (held.lock === "time") dy = 0;
    if (held.lock === "value") dx = 0;
    const frames = Math.round((dx / this.width) * (this.view.last - this.view.first));
    let high = (-dy / this.height) * (this.view.high - this.view.low);
    if (event.ctrlKey || event.metaKey) high = Math.round(high);
    this.reshape(
      { ...UNSHAPED, by_frames: frames, by: high ? this.each((curve) => high / curve.scale) : {} },
      `${frames >= 0 ? "+" : "−"}${Math.abs(frames)} frames, ${high >= 0 ? "+" : "−"}${Math.abs(high).toFixed(1)}`,
    );
  }

  private moveGrip(held: Extract<Held, { what: "grip" }>, x: number, y: number, event: React.PointerEvent) {
    const region = regionOf(this.place, this.curves, desk().keysChosen, new Map());
    if (!region) return;
    const { anchor, place } = this;
    const key = anchor && yOf(place, drawn(anchor.curve, valueAt(anchor.curve.table, anchor.frame)));
    const about = {
      playhead: [xOf(place, playhead.frame), yOf(place, 0)] as const,
      key: anchor && ([xOf(place, anchor.frame), key!] as const),
    };
    const frames = this.chosen().flatMap((curve) => desk().keysChosen[curve.address]);
    const whole = event.ctrlKey || event.metaKey;
    const { how, readout } = gripped({ ...held, to: { x, y }, place, region, frames, whole, by: this.about, about });
    this.reshape({ ...UNSHAPED, ...how(this.chosen()) }, readout);
  }

  private reshape(how: Reshape, readout: string) {
    const { keysChosen } = desk();
    const keys = Object.fromEntries(this.chosen().map((curve) => [curve.address, keysChosen[curve.address]]));
    const frames = Object.values(keys).flat();
    const [from, to] = [Math.min(...frames), Math.max(...frames)];
    this.edit = { kind: "reshape", keys, to: {}, ...how };
    this.previews.clear();
    if (how.time > 0)
      for (const curve of this.chosen())
        this.previews.set(curve.address, reshaped(curve.table, curve.address, keys[curve.address], how, from, to));
    this.tried(readout);
  }

  private moveHandle(end: HandleEnd, x: number, y: number, alone: boolean) {
    const { curve, row, side } = end;
    const i = row * WIDTH;
    const frame = curve.table[i];
    const after = side === "after";
    const gap = after ? curve.table[i + WIDTH] - frame : frame - curve.table[i - WIDTH];
    const time = Math.min(Math.max((frameAt(this.place, x) - frame) * (after ? 1 : -1), 0), gap);
    const value = undrawn(curve, heightAt(this.place, y)) - curve.table[i + VALUE];
    const table = withHandle(curve.table, row, side, time, value, alone);
    this.previews.clear();
    this.previews.set(curve.address, table);
    this.edit = { kind: "handle", address: curve.address, frame, side, time, value, alone };
    this.tried(`${time.toFixed(1)} frames, ${(value * curve.factor).toFixed(1)}${curve.unit}`);
  }

  /** Shows how the figure would stand at the playhead after what is held. */
  private tried(readout: string) {
    readOut(readout);
    this.said(readout);
    const member = active();
    const edit = this.edit;
    if (!member || !edit || desk().playing) return;
    socket()?.stream({ do: "try", casting: member.id, frame: desk().frame, edit }, (pose) => {
      if (this.edit) showPose(pose, member.id);
    });
  }

  private async finish() {
    const edit = this.edit!;
    this.edit = null;
    endTrial();
    this.said("");
    const ok = await commit(edit);
    if (ok && edit.kind === "reshape") this.choose(keysAfter(edit));
    this.previews.clear();
    this.draw();
  }
}
