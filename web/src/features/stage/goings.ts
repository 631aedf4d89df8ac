// Ways on the ground: their lines, points and handles, and the soles of their footfalls. They lie in no thumbnail.
import * as THREE from "three";
import { chosenFootfall, wayNow, waysOf } from "../../desk/goings";
import type { Member } from "../../desk/store";
import { axesOf, endOf, type Footfall, heightAt, type Way, widerAt } from "../../model/goings";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { type Ray, toPixels } from "./handle";
import { SOLE } from "./marks";
import { inside } from "./outlines";

const SVG = "http://www.w3.org/2000/svg";
const GRASPED = 9; // pixels from a mark at which it is still meant
const BESIDE = 0.5; // metres from the end of a way to the handles of the whole

/** What of a way is under the pointer. */
export type OnWay =
  | { what: "point"; way: Way; n: number }
  | { what: "into" | "out"; way: Way; n: number }
  | { what: "footfall"; way: Way; footfall: Footfall }
  | { what: "longer" | "bend" | "wider"; way: Way }
  | { what: "line"; way: Way; along: number };

interface Mark {
  on: OnWay;
  at: THREE.Vector2;
}

const make = (name: string, attributes: Record<string, string | number>) => {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
};
/** A line through pixels, broken where what it goes through is behind the eye. */
const pathOf = (points: (THREE.Vector2 | null)[]) =>
  points.map((p, n) => (p ? `${n && points[n - 1] ? "L" : "M"}${p.x.toFixed(1)} ${p.y.toFixed(1)}` : "")).join("");

/** Where places lie on the picture; null for what is behind the eye. */
const pixelsOn = (on: Ray) => {
  const perspective = "fov" in on.camera;
  return (x: number, y: number, z: number): THREE.Vector2 | null => {
    const place = new THREE.Vector3(x, y, z);
    if (perspective && place.clone().applyMatrix4(on.camera.matrixWorldInverse).z > -0.1) return null;
    return toPixels(place, on, new THREE.Vector2());
  };
};
const whole = (points: (THREE.Vector2 | null)[]): points is THREE.Vector2[] => points.every(Boolean);

export class Goings implements Drawn {
  readonly objects = [];
  readonly needs = ["ways", "wayDrawn", "wayChosen", "activeId", "looks"] as const;
  over: OnWay | null = null;
  private inks!: Inks;
  private readonly group = document.createElementNS(SVG, "g");
  private marks: Mark[] = [];
  private soles: { on: OnWay; corners: THREE.Vector2[] }[] = [];
  private drawn: { way: Way; pixels: (THREE.Vector2 | null)[] }[] = [];

  constructor(beside: SVGGElement) {
    this.group.dataset.ways = "";
    beside.before(this.group);
  }

  setInks(inks: Inks) {
    this.inks = inks;
  }

  write({ s, member, on, posing }: Moment) {
    this.group.replaceChildren();
    [this.marks, this.soles, this.drawn] = [[], [], []];
    if (!posing || !member) return;
    const now = wayNow(s);
    for (const way of waysOf(member, s)) this.writeWay(way, way.start === now?.start, member, on, s);
    if (s.wayDrawn?.casting === member.id) this.writeDrawn(s.wayDrawn.points, on);
  }

  private writeWay(way: Way, mine: boolean, member: Member, on: Ray, s: Moment["s"]) {
    const { inks } = this;
    const pixel = pixelsOn(on);
    const line = way.line.map(([x, y, z]) => pixel(x, y + 0.005, z));
    this.drawn.push({ way, pixels: line });
    if (!way.turn)
      this.add("path", {
        d: pathOf(line), fill: "none", stroke: inks.blue, "stroke-width": mine ? 2.2 : 1.2,
        "stroke-opacity": mine ? 0.9 : 0.5, "stroke-dasharray": way.closed ? "none" : "none",
      }); // prettier-ignore
    const chosen = chosenFootfall(mine ? way : null, s);
    for (const one of way.footfalls) {
      const outline = soleOf(member, one).map(([x, z]) => pixel(x, one.y + 0.005, z));
      if (!whole(outline)) continue;
      const tone = one.leg === "L" || one.leg.includes(".L") ? inks.left : inks.right;
      const stands = one.first <= s.frame && s.frame <= one.last;
      const is = chosen === one;
      this.add("path", {
        d: `${pathOf(outline)}Z`, fill: tone, "fill-opacity": stands ? 0.45 : is ? 0.3 : 0.12,
        stroke: one.short > 0 ? inks.red : is ? inks.blue : tone, "stroke-width": is ? 2.4 : 1.3,
        "stroke-dasharray": one.set_by_hand.length ? "none" : "4 2", "data-footfall": `${one.leg}${one.number}`,
      }); // prettier-ignore
      this.soles.push({ on: { what: "footfall", way, footfall: one }, corners: outline });
      if (mine && one.number > 0) {
        const middle = pixel(one.x, one.y, one.z)!;
        const text = this.add("text", {
          x: middle.x, y: middle.y + 3.5, "text-anchor": "middle", "font-size": 10.5, "font-weight": 700,
          fill: tone, stroke: inks.sheet, "stroke-width": 2.6, "paint-order": "stroke",
        }); // prettier-ignore
        text.textContent = `${one.number}`;
      }
    }
    if (!mine || way.turn) return;
    way.points.forEach((p, n) => {
      const high = heightAt(way, p.x, p.z);
      const at = pixel(p.x, high, p.z);
      if (!at) return;
      const is = s.wayChosen?.start === way.start && s.wayChosen.point === n;
      if (is)
        for (const side of ["into", "out"] as const) {
          const [hx, hz] = p[side];
          if (!hx && !hz) continue;
          const end = pixel(p.x + hx, high, p.z + hz);
          if (!end) continue;
          this.add("path", { d: pathOf([at, end]), stroke: inks.ink, "stroke-width": 1 });
          this.add("circle", { cx: end.x, cy: end.y, r: 3.6, fill: inks.sheet, stroke: inks.ink, "stroke-width": 1.5 });
          this.marks.push({ on: { what: side, way, n }, at: end });
        }
      this.add("rect", {
        x: at.x - 5, y: at.y - 5, width: 10, height: 10, transform: `rotate(45 ${at.x} ${at.y})`,
        fill: is ? inks.blue : inks.sheet, stroke: inks.blue, "stroke-width": 2, "data-way-point": n,
      }); // prettier-ignore
      this.marks.push({ on: { what: "point", way, n }, at });
    });
    if (!way.closed) this.writeHandles(way, pixel);
  }

  /** Handles of the whole: ahead of the end to lengthen it, beside that to bend it, and beside its middle to widen. */
  private writeHandles(way: Way, pixel: ReturnType<typeof pixelsOn>) {
    const { end, ahead, left, high } = endOf(way);
    const places = {
      longer: pixel(end[0] + ahead[0] * BESIDE, high, end[1] + ahead[1] * BESIDE),
      bend: pixel(end[0] + left[0] * BESIDE, high, end[1] + left[1] * BESIDE),
      wider: pixel(...widerAt(way)),
    };
    const from = pixel(end[0], high, end[1]);
    const words = { longer: "longer", bend: "bend", wider: "wider" };
    for (const what of ["longer", "bend", "wider"] as const) {
      const at = places[what];
      if (!at) continue;
      if (what !== "wider")
        this.add("path", {
          d: pathOf([from, at]), stroke: this.inks.faint, "stroke-width": 1, "stroke-dasharray": "2 3",
        }); // prettier-ignore
      this.add("circle", {
        cx: at.x, cy: at.y, r: 5, fill: this.inks.sheet, stroke: this.inks.ink, "stroke-width": 1.6, "data-way": what,
      }); // prettier-ignore
      const text = this.add("text", {
        x: at.x + 8, y: at.y + 4, "font-size": 11, fill: this.inks.ink, stroke: this.inks.sheet, "stroke-width": 2.6,
        "paint-order": "stroke",
      }); // prettier-ignore
      text.textContent = words[what];
      this.marks.push({ on: { what, way }, at });
    }
  }

  private writeDrawn(points: [number, number, number][], on: Ray) {
    const at = points.map((place) => pixelsOn(on)(...place)).filter((p) => p !== null);
    this.add("path", { d: pathOf(at), fill: "none", stroke: this.inks.blue, "stroke-width": 2.2 });
    for (const p of at)
      this.add("circle", { cx: p.x, cy: p.y, r: 4, fill: this.inks.sheet, stroke: this.inks.blue, "stroke-width": 2 });
  }

  private add(name: string, attributes: Record<string, string | number>) {
    const element = make(name, attributes);
    this.group.append(element);
    return element;
  }

  /** What of a way is under the pointer: marks before soles, and these before lines. */
  under(p: THREE.Vector2): OnWay | null {
    let best: Mark | null = null;
    for (const mark of this.marks) {
      const away = mark.at.distanceTo(p);
      if (away <= GRASPED && (!best || away < best.at.distanceTo(p))) best = mark;
    }
    if (best) return best.on;
    const sole = this.soles.find(({ corners }) => inside(corners, p));
    if (sole) return sole.on;
    for (const { way, pixels } of this.drawn) {
      let gone = 0;
      for (let n = 0; n + 1 < pixels.length; n++) {
        const [a, b] = [pixels[n], pixels[n + 1]];
        gone = n;
        if (!a || !b) continue;
        const way2 = b.clone().sub(a);
        const share = Math.min(Math.max(p.clone().sub(a).dot(way2) / Math.max(way2.lengthSq(), 1e-9), 0), 1);
        if (a.clone().addScaledVector(way2, share).distanceTo(p) <= 5)
          return { what: "line", way, along: ((gone + share) / (pixels.length - 1)) * way.length };
      }
    }
    return null;
  }

  dispose() {
    this.group.remove();
  }
}

/** The outline of a sole on the ground, (x, z) in metres. */
function soleOf(member: Member, one: Footfall): [number, number][] {
  const limb = member.rig.limbs.find((l) => l.ik === one.control);
  const heel = limb?.points.heel?.[2] ?? -0.05;
  const tip = limb?.points.tip?.[2] ?? 0.12;
  const [ahead, left] = axesOf(one.heading);
  return SOLE.map(([a, b]) => {
    const [along, aside] = [heel + a * (tip - heel), -b * (tip - heel)];
    return [one.x + along * ahead[0] + aside * left[0], one.z + along * ahead[1] + aside * left[1]];
  });
}
