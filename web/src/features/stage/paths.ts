// Paths over the stage: the way of a part, a mark a frame, larger on keys, with the numbers of frames.
import * as THREE from "three";
import { framesShown, keysOf, ownerOf, spotNow, spotOf } from "../../desk/paths";
import { desk } from "../../desk/store";
import type { Path } from "../../model/types";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import { toPixels } from "./handle";
import { Lines } from "./lines";
import { LAYER } from "./views";

const SVG = "http://www.w3.org/2000/svg";
const MOST_LABELS = 60;
const REACH = 9;

/** Pixels between numbers that are not near the pointer, by how much they rank; and how near that is. */
const ROOM = [17, 34, 60, 60, 80];
const NEARBY = 70;

interface Mark {
  path: number;
  frame: number;
  key: boolean;
  x: number;
  y: number;
  z: number;
  at: THREE.Vector2;
}

export class Paths implements Drawn {
  readonly lines = new Lines(2, true, 7, LAYER.marks);
  readonly small = points(4);
  readonly large = points(7.5);
  readonly objects = [this.lines.object, this.lines.thin, this.small, this.large];
  readonly needs = [
    "paths",
    "pathsShown",
    "pathLooks",
    "moved",
    "mark",
    "faultsIn",
    "compared",
    "playing",
    "cast",
    "looks",
  ] as const;
  over: { path: number; frame: number } | null = null;
  private marks: Mark[] = [];
  private tones: THREE.Color[] = [];
  private inks!: Inks;
  private sheet = new THREE.Color();
  private readonly labels: SVGTextElement[] = [];
  private near: THREE.Vector2 | null = null;
  private size = { width: 0, height: 0 };

  constructor(private readonly group: SVGGElement) {}

  setInks(inks: Inks) {
    this.inks = inks;
    this.sheet.set(inks.sheet);
    this.tones = toneInks(inks).map((hex) => new THREE.Color(hex));
  }

  /** Draws the shown paths by the frames that are known; nothing while it plays. */
  write({ s, on, posing }: Moment) {
    this.lines.begin();
    this.marks = [];
    const drawn = posing && s.pathsShown ? s.paths : [];
    drawn.forEach((path, number) => path.shown && !path.lacks && this.draw(path, number));
    if (s.compared) for (const path of drawn) if (path.shown && !path.lacks && !path.within) this.drawOther(path);
    this.lines.end();
    const put = (cloud: THREE.Points, wanted: (mark: Mark) => boolean) => {
      const some = this.marks.filter(wanted);
      grow(cloud, some.length);
      const place = cloud.geometry.getAttribute("position") as THREE.BufferAttribute;
      const tone = cloud.geometry.getAttribute("color") as THREE.BufferAttribute;
      some.forEach((mark, n) => {
        place.setXYZ(n, mark.x, mark.y, mark.z);
        const colour = mark.frame === s.frame ? RED.set(this.inks.red) : this.tones[drawn[mark.path].tone];
        tone.setXYZ(n, colour.r, colour.g, colour.b);
      });
      place.needsUpdate = tone.needsUpdate = true;
      cloud.geometry.setDrawRange(0, some.length);
      cloud.visible = some.length > 0;
    };
    const large = (mark: Mark) =>
      mark.key || (mark.path === this.over?.path && mark.frame === this.over.frame) || mark.frame === s.frame;
    put(this.small, (mark) => !large(mark));
    put(this.large, large);
    this.size = on;
    for (const mark of this.marks) toPixels(P.set(mark.x, mark.y, mark.z), on, mark.at);
    this.number();
  }

  private draw(path: Path, number: number) {
    const s = desk();
    const member = s.cast.find((m) => m.id === path.casting);
    if (!member || !s.shot) return;
    const [first, last] = framesShown(s);
    const owner = ownerOf(path, s);
    if (path.within && !owner) return;
    const now = owner && spotNow(owner.member, owner.control);
    const keys = keysOf(member, path);
    const tone = this.tones[path.tone];
    let fastest = 1e-9;
    const places: number[] = [];
    for (let f = first; f <= last; f++) {
      const spot = spotOf(path.casting, path.name, path.joint, f, s);
      if (!spot) return;
      P.set(spot[0], spot[1], spot[2]);
      if (owner && now) {
        // As it is seen from its owner at that frame, where the owner is now.
        const from = spotOf(owner.member.id, owner.control, false, f, s);
        if (!from) return;
        P.sub(A.set(from[0], from[1], from[2])).applyQuaternion(Q.set(from[3], from[4], from[5], from[6]).invert());
        P.applyQuaternion(Q.set(now[3], now[4], now[5], now[6])).add(A.set(now[0], now[1], now[2]));
      }
      const at = places.length;
      places.push(P.x, P.y, P.z);
      if (at >= 3)
        fastest = Math.max(fastest, Math.hypot(P.x - places[at - 3], P.y - places[at - 2], P.z - places[at - 1]));
      this.marks.push({ path: number, frame: f, key: keys.has(f), x: P.x, y: P.y, z: P.z, at: new THREE.Vector2() });
    }
    for (let n = 3; n < places.length; n += 3) {
      const [ax, ay, az, bx, by, bz] = places.slice(n - 3, n + 3);
      const share = s.pathLooks.speed ? Math.hypot(bx - ax, by - ay, bz - az) / fastest : 1;
      // Speed is told by how dark the way is as well as by how far apart its marks are.
      C.copy(this.sheet).lerp(tone, 0.25 + 0.75 * share);
      this.lines.add(ax, ay, az, bx, by, bz, C);
    }
  }

  /** The same path in the state that is compared with, thin and pale: as it was. */
  private drawOther(path: Path) {
    const s = desk();
    const motion = s.compared?.motions.get(path.casting);
    if (!motion) return;
    const [first, last] = framesShown(s);
    C.copy(this.sheet).lerp(this.tones[path.tone], 0.4);
    let before: ArrayLike<number> | null = null;
    for (let f = first; f <= last; f++) {
      const spot = spotOf(path.casting, path.name, path.joint, f, s, motion);
      // Every second piece: it is told from the path that there is by being broken.
      if (spot && before && f % 2) this.lines.add(before[0], before[1], before[2], spot[0], spot[1], spot[2], C);
      before = spot && [spot[0], spot[1], spot[2]];
    }
  }

  /** Numbers where they fit: of keys first, then of round frames, and near the pointer of as many as there is room. */
  number(near: THREE.Vector2 | null = this.near) {
    this.near = near;
    const { frame } = desk();
    const { width, height } = this.size;
    const seen = this.marks.filter(({ at }) => at.x > -9 && at.y > 0 && at.x < width && at.y < height + 9);
    const told = numbered(seen, frame, near);
    while (this.labels.length < told.length) {
      const text = document.createElementNS(SVG, "text");
      text.setAttribute("font-size", "11");
      text.setAttribute("paint-order", "stroke");
      text.setAttribute("stroke-width", "3");
      text.dataset.pathLabel = "";
      this.group.append(text);
      this.labels.push(text);
    }
    this.labels.forEach((text, n) => {
      const mark = told[n];
      text.style.display = mark ? "" : "none";
      if (!mark) return;
      text.textContent = String(mark.frame);
      text.setAttribute("x", (mark.at.x + 6).toFixed(1));
      text.setAttribute("y", (mark.at.y - 5).toFixed(1));
      text.setAttribute("stroke", this.inks.sheet);
      text.setAttribute(
        "fill",
        mark.frame === frame ? this.inks.red : toneInks(this.inks)[desk().paths[mark.path].tone],
      );
    });
  }

  /** The mark under the pointer. */
  under(pointer: THREE.Vector2): { path: number; frame: number } | null {
    let best: Mark | null = null;
    let far = REACH;
    for (const mark of this.marks) {
      const away = mark.at.distanceTo(pointer) - (mark.key ? 2 : 0);
      if (away < far) [best, far] = [mark, away];
    }
    return best && { path: best.path, frame: best.frame };
  }

  /** Where a mark is, in the world. */
  placeOf(mark: { path: number; frame: number }): THREE.Vector3 | null {
    const found = this.marks.find((m) => m.path === mark.path && m.frame === mark.frame);
    return found ? new THREE.Vector3(found.x, found.y, found.z) : null;
  }

  dispose() {
    this.lines.dispose();
    for (const cloud of [this.small, this.large]) {
      cloud.geometry.dispose();
      (cloud.material as THREE.Material).dispose();
    }
  }
}

type Numbered = Pick<Mark, "frame" | "key" | "at">;

/** How much a frame has to say: the one that is shown, keys, and then the rounder the more. */
const rank = (mark: Numbered, frame: number) =>
  mark.frame === frame || mark.key ? 0 : mark.frame % 10 === 0 ? 1 : mark.frame % 5 === 0 ? 2 : mark.frame % 2 ? 4 : 3;

/** The marks whose numbers are written, so that none lies on another one. */
export function numbered<M extends Numbered>(marks: readonly M[], frame: number, near: THREE.Vector2 | null): M[] {
  const taken: M[] = [];
  const ranked = marks
    .map((mark) => ({ mark, rank: rank(mark, frame), close: !!near && mark.at.distanceTo(near) < NEARBY }))
    .sort((a, b) => (a.close ? Math.min(a.rank, 0.5) : a.rank) - (b.close ? Math.min(b.rank, 0.5) : b.rank));
  for (const { mark, rank, close } of ranked) {
    if (taken.length === MOST_LABELS) break;
    const room = close ? ROOM[0] : ROOM[rank];
    const free = taken.every(
      ({ at }) => Math.abs(at.x - mark.at.x) >= room || Math.abs(at.y - mark.at.y) >= Math.max(11, room - 20),
    );
    if (free) taken.push(mark);
  }
  return taken;
}

const P = new THREE.Vector3();
const A = new THREE.Vector3();
const Q = new THREE.Quaternion();
const C = new THREE.Color();
const RED = new THREE.Color();

/** The inks of the tones of paths, by number. */
export const toneInks = (inks: Inks) => [
  inks.blue,
  inks.red,
  inks.axisX,
  inks.axisY,
  inks.axisZ,
  inks.left,
  inks.right,
  inks.ink,
];

function points(size: number): THREE.Points {
  const material = new THREE.PointsMaterial({ size, sizeAttenuation: false, vertexColors: true, depthTest: false });
  material.transparent = true;
  // Round marks: what lies outside of the circle is not drawn.
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <clipping_planes_fragment>",
      "if (length(gl_PointCoord - 0.5) > 0.5) discard;\n#include <clipping_planes_fragment>",
    );
  };
  const cloud = new THREE.Points(new THREE.BufferGeometry(), material);
  cloud.frustumCulled = false;
  cloud.renderOrder = 8;
  cloud.layers.set(LAYER.handle); // seen on the stage, also where pictures have to be quick; sights show the way alone
  grow(cloud, 64);
  return cloud;
}

function grow(cloud: THREE.Points, count: number) {
  const has = (cloud.geometry.getAttribute("position") as THREE.BufferAttribute | undefined)?.count ?? 0;
  if (has >= count) return;
  const room = Math.max(count, 2 * has);
  for (const name of ["position", "color"])
    cloud.geometry.setAttribute(name, new THREE.BufferAttribute(new Float32Array(3 * room), 3));
}
