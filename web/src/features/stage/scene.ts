// The stage and its sights: one canvas, one renderer, several directions. Drawn only when something changed.
import * as THREE from "three";
import { tick } from "../../desk/playing";
import { CONTROL, Pose } from "../../desk/motion";
import { handleControl, pivotPlace, posedSelection } from "../../desk/pivot";
import { poseFrames } from "../../desk/columns";
import { active, desk, type Member, onShow, toHand, useDesk } from "../../desk/store";
import type { Axes, Control, Tool, ViewName } from "../../desk/types";
import type { Inks } from "../../theme";
import { useLook } from "../../ui/look";
import { Figure } from "./figure";
import { drawnInSoftware, FinePicture } from "./fine";
import {
  casterAt,
  drawHandle,
  type Grip,
  gripAt,
  type HandleInks,
  letters,
  placeBeside,
  type Ray,
  type Stand,
  toPixels,
  toSegment,
} from "./handle";
import { Following } from "./following";
import { Lines } from "./lines";
import { outlineOf } from "./shapes";
import { View } from "./views";

const DRAWN = [
  "selection",
  "pivotOn",
  "pivot",
  "dropped",
  "looks",
  "tool",
  "axes",
  "view",
  "activeId",
  "playing",
] as const;

interface Drawn {
  control: Control;
  from: number;
  to: number;
  points: Float32Array;
}

export class StageScene {
  readonly renderer: THREE.WebGLRenderer;
  readonly view = new View("quarter", [0, 1, 2, 3, 4]);
  readonly following = new Following(this.view, (member) => this.middle(member));
  readonly sights: { view: View; box: HTMLElement }[] = [];
  private readonly scene = new THREE.Scene();
  private readonly figures = new Map<number, Figure>();
  private ghosts: { figure: Figure; of: number; pose: Pose }[] = [];
  private readonly ghostBefore = ghostTone();
  private readonly ghostAfter = ghostTone();
  private readonly outlines = new Lines(1.8, true, 5);
  private readonly handleLines = new Lines(2.6, true, 9);
  private readonly ground = new THREE.Group();
  private drawn: Drawn[] = [];
  private world: Float32Array = new Float32Array(0);
  private inks!: Inks;
  private handleInks!: HandleInks;
  private colours = new Map<string, THREE.Color>();
  private asked = 0;
  readonly slow: boolean;
  private readonly fine: FinePicture | null;
  private resting = 0;
  private turn = 0;
  private readonly stops: (() => void)[] = [];
  private readonly watch: ResizeObserver;
  private small: THREE.WebGLRenderTarget | null = null;
  loaded = false;
  /** The frames of which ghosts are shown. */
  ghosted: number[] = [];
  meant: Grip | null = null;
  over: string | null = null;
  /** Milliseconds of script for each picture of late, for the measurements under bench/. */
  readonly costs: number[] = [];

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly box: HTMLElement,
    private readonly letterTags: Record<"x" | "y" | "z", HTMLElement>,
    private readonly ghostTag: HTMLElement,
  ) {
    this.slow = drawnInSoftware();
    this.renderer = new THREE.WebGLRenderer({
      canvas,
      antialias: !this.slow,
      preserveDrawingBuffer: this.slow,
      powerPreference: "high-performance",
    });
    this.fine = this.slow ? new FinePicture(this.renderer) : null;
    this.renderer.setScissorTest(true);
    const sun = new THREE.DirectionalLight(0xfff4e0, 2.1);
    sun.position.set(-1.2, 3, 2.2);
    const sky = new THREE.HemisphereLight(0xf4f7fa, 0x8c8472, 1.75);
    for (const light of [sun, sky]) light.layers.enableAll();
    this.scene.add(sun, sky, this.ground, this.outlines.object, this.handleLines.object);
    this.watch = new ResizeObserver(() => this.resize());
    this.watch.observe(box);
    this.stops.push(
      onShow(() => this.draw()),
      useDesk.subscribe((s, before) => {
        // Poses are told of by onShow; of the rest only this changes the picture.
        if (DRAWN.some((key) => s[key] !== before[key])) this.draw();
      }),
    );
    this.resize();
  }

  dispose() {
    for (const stop of this.stops) stop();
    cancelAnimationFrame(this.asked);
    clearTimeout(this.resting);
    this.fine?.dispose();
    this.watch.disconnect();
    for (const figure of this.figures.values()) figure.dispose();
    this.outlines.dispose();
    this.handleLines.dispose();
    this.small?.dispose();
    this.renderer.dispose();
  }

  setInks(inks: Inks) {
    this.inks = inks;
    const colour = (hex: string) => new THREE.Color(hex);
    this.colours = new Map([
      ["", colour(inks.ink)],
      ["L", colour(inks.left)],
      ["R", colour(inks.right)],
      ["selected", colour(inks.blue)],
      ["over", colour(inks.red)],
    ]);
    // Ochre, plum and slate: the arms are told apart by their letters first.
    this.handleInks = {
      x: colour(inks.axisX),
      y: colour(inks.axisY),
      z: colour(inks.axisZ),
      plain: colour(inks.faint),
      held: colour(inks.red),
    };
    this.ghostBefore.color.set(inks.axisZ);
    this.ghostAfter.color.set(inks.axisX);
    this.layGround();
    this.relook();
  }

  private layGround() {
    for (const child of [...this.ground.children]) {
      this.ground.remove(child);
      (child as THREE.LineSegments).geometry.dispose();
    }
    const reach = 6;
    const thin: number[] = [];
    const bold: number[] = [];
    for (let n = -reach * 2; n <= reach * 2; n++) {
      const into = n % 2 === 0 ? bold : thin;
      into.push(n / 2, 0, -reach, n / 2, 0, reach, -reach, 0, n / 2, reach, 0, n / 2);
    }
    for (const [points, hex, order] of [
      [thin, this.inks.floor, 0],
      [bold, this.inks.line, 1],
    ] as const) {
      const geometry = new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
      const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: hex }));
      lines.renderOrder = order - 10;
      lines.layers.set(3);
      this.ground.add(lines);
    }
  }

  /** Loads the skins of the cast, and frames the figure the first time. */
  async setCast(cast: Member[]) {
    for (const [id, figure] of this.figures) {
      if (cast.some((m) => m.id === id)) continue;
      this.dropGhosts();
      this.scene.remove(figure.group);
      figure.dispose();
      this.figures.delete(id);
    }
    await Promise.all(
      cast.map(async (member) => {
        if (this.figures.has(member.id)) return;
        const figure = await Figure.load(`/api/castings/${member.id}/mesh.glb?v=${member.mesh}`);
        this.figures.set(member.id, figure);
        this.scene.add(figure.group);
      }),
    );
    this.relook();
    this.frameFigure();
    this.loaded = true;
  }

  relook() {
    const { looks } = desk();
    for (const figure of this.figures.values()) figure.look(looks.skin, this.inks.shade);
    this.draw();
  }

  frameFigure() {
    const member = active();
    if (!member) return;
    this.view.frame(this.middle(member), member.rig.height * 0.65);
    this.following.keepAside();
    this.draw();
  }

  frameSelection() {
    const member = active();
    const stand = this.stand();
    if (!member || !stand) return this.frameFigure();
    this.view.frame(stand.origin, member.rig.height * 0.2);
    this.following.keepAside();
    this.draw();
  }

  private middle(member: Member): THREE.Vector3 {
    const body = member.rig.controls.findIndex((c) => c.kind === "body");
    const at = Math.max(body, 0) * CONTROL;
    const p = member.pose.controls;
    return new THREE.Vector3(p[at], member.rig.height * 0.53 * (p[at + 7] || 1) + p[1], p[at + 2]);
  }

  setView(name: ViewName) {
    this.view.set(name);
    this.draw();
  }

  /** The stage and the pixel it is drawn on, for turning pixels into places. */
  get on(): Ray {
    return { camera: this.view.camera, width: this.box.clientWidth, height: this.box.clientHeight };
  }

  private resize() {
    const parent = this.canvas.parentElement!;
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
    this.renderer.setSize(parent.clientWidth, parent.clientHeight, false);
    this.draw();
  }

  draw() {
    if (!this.asked) this.asked = requestAnimationFrame((now) => this.picture(now));
  }

  private picture(now: number) {
    this.asked = 0;
    const begun = performance.now();
    if (desk().playing) {
      const moved = tick(now);
      this.draw();
      if (!moved && this.costs.length) return;
    }
    this.pose();
    // Where pictures are slow, one sight in turn is drawn with each while playing.
    const playing = desk().playing;
    this.paintAll(this.slow && playing ? this.turn++ % Math.max(this.sights.length, 1) : -1);
    this.costs.push(performance.now() - begun);
    if (this.costs.length > 240) this.costs.shift();
    if (this.fine && !playing && useLook.getState().smooth) {
      clearTimeout(this.resting);
      this.resting = window.setTimeout(() => {
        if (desk().playing || desk().dragged) return;
        this.pose(); // small pictures may have been drawn of other frames since
        this.fine?.draw((into) => this.paintAll(-1, into));
      }, 300);
    }
  }

  private paintAll(onlySight: number, into?: THREE.WebGLRenderTarget) {
    const parent = this.canvas.parentElement!.getBoundingClientRect();
    this.paint(this.view, this.box, parent, this.inks.sheet, into);
    const member = active();
    this.sights.forEach(({ view, box }, n) => {
      if (!box.isConnected || !box.clientWidth || !member || (onlySight >= 0 && n !== onlySight)) return;
      view.aspect = box.clientWidth / box.clientHeight;
      view.frame(this.middle(member), member.rig.height * 0.56);
      this.paint(view, box, parent, this.inks.sheet, into);
    });
  }

  private paint(view: View, box: HTMLElement, parent: DOMRect, sheet: string, into?: THREE.WebGLRenderTarget) {
    const r = box.getBoundingClientRect();
    const [x, y] = [r.left - parent.left, parent.bottom - r.bottom];
    if (view === this.view && view.aspect !== r.width / r.height) {
      view.aspect = r.width / Math.max(r.height, 1);
      view.update();
    }
    if (into) {
      const p = this.renderer.getPixelRatio();
      into.viewport.set(x * p, y * p, r.width * p, r.height * p);
      into.scissor.copy(into.viewport);
    }
    // The renderer's own viewport is also what the lines take their width from.
    this.renderer.setViewport(x, y, r.width, r.height);
    this.renderer.setScissor(x, y, r.width, r.height);
    if (into) this.renderer.setRenderTarget(into);
    this.renderer.setClearColor(sheet);
    this.outlines.material.resolution.set(r.width, r.height);
    this.handleLines.material.resolution.set(r.width, r.height);
    this.renderer.render(this.scene, view.camera);
  }

  /** Writes the shown pose into bones, outlines and handle. */
  private pose() {
    const s = desk();
    this.following.follow();
    for (const member of s.cast) this.figures.get(member.id)?.write(member.pose);
    this.drawGhosts();
    // While playing the motion is judged, so only the figure is seen.
    this.drawOutlines(s.looks.skin !== "only" && !s.playing ? active(s) : undefined);
    const stand = s.playing ? null : this.stand();
    drawHandle(this.handleLines, stand, this.on, this.handleInks, this.meant);
    const places = stand && letters(stand, this.on);
    for (const axis of ["x", "y", "z"] as const) {
      const tag = this.letterTags[axis];
      tag.style.display = places ? "block" : "none";
      if (places) tag.style.transform = `translate(${places[axis].x - 6}px, ${places[axis].y - 9}px)`;
      tag.style.color = `#${this.handleInks[axis].getHexString()}`;
    }
  }

  private dropGhosts() {
    for (const { figure } of this.ghosts) this.scene.remove(figure.group);
    this.ghosts = [];
  }

  /** Figures of the neighbouring keys: those before in one tone, those after in another. */
  private drawGhosts() {
    const s = desk();
    const member = active(s);
    const count = s.playing ? 0 : s.looks.ghosts;
    const own = member && this.figures.get(member.id);
    const frames = member && count ? poseFrames(member) : [];
    const before = frames.filter((f) => f < s.frame).slice(-count || frames.length);
    const after = frames.filter((f) => f > s.frame).slice(0, count);
    const wanted =
      count && own
        ? [...before.map((f) => [f, this.ghostBefore] as const), ...after.map((f) => [f, this.ghostAfter] as const)]
        : [];
    if (this.ghosts.some((g) => g.of !== member?.id)) this.dropGhosts();
    while (this.ghosts.length > wanted.length) this.scene.remove(this.ghosts.pop()!.figure.group);
    wanted.forEach(([frame, material], n) => {
      if (!this.ghosts[n]) {
        const ghost = {
          figure: own!.ghost(material),
          of: member!.id,
          pose: new Pose(member!.motion.j, member!.motion.k, member!.motion.c),
        };
        this.scene.add(ghost.figure.group);
        this.ghosts[n] = ghost;
      }
      const ghost = this.ghosts[n];
      for (const mesh of ghost.figure.meshes) mesh.material = material;
      member!.motion.show(frame, ghost.pose);
      ghost.figure.write(ghost.pose);
    });
    this.ghosted = wanted.map(([frame]) => frame);
    this.ghostTag.style.display = wanted.length ? "block" : "none";
    const said = (f: number[]) => f.join(", ");
    this.ghostTag.replaceChildren(
      ...(
        [
          [before, this.ghostBefore, "before "],
          [after, this.ghostAfter, "after "],
        ] as const
      ).flatMap(([list, tone, word]) => {
        if (!wanted.length || !list.length) return [];
        const tag = document.createElement("span");
        tag.textContent = `${word}${said(list)}  `;
        tag.style.color = `#${tone.color.getHexString()}`;
        return [tag];
      }),
    );
  }

  private drawOutlines(member: Member | undefined) {
    this.outlines.begin();
    this.drawn = [];
    if (member) {
      const s = desk();
      const chosen = new Set(s.selection);
      let used = 0;
      member.rig.controls.forEach((control, k) => {
        if (control.shape.kind === "none") return;
        if (!chosen.has(control.name) && !toHand(member, control, s.looks.hidden)) return;
        const points = outlineOf(control.shape.kind);
        if (this.world.length < used + points.length) {
          const more = new Float32Array(Math.max((used + points.length) * 2, 4096));
          more.set(this.world);
          this.world = more;
        }
        const from = used;
        used = place(points, control, member.pose.controls, k * CONTROL, this.world, used);
        const colour = this.colours.get(
          chosen.has(control.name) ? "selected" : this.over === control.name ? "over" : control.side,
        )!;
        const w = this.world;
        for (let n = from; n < used; n += 6)
          this.outlines.add(w[n], w[n + 1], w[n + 2], w[n + 3], w[n + 4], w[n + 5], colour);
        this.drawn.push({ control, from, to: used, points });
      });
    }
    this.outlines.end();
  }

  // The handle

  /** Where the handle stands and what it can do; null when nothing is selected that moves or turns. */
  stand(): Stand | null {
    const s = desk();
    const member = active(s);
    if (!member || !s.selection.length || s.looks.skin === "only") return null;
    const chosen = posedSelection(s);
    const last = handleControl(s);
    if (!last) return null;
    const tool: Tool =
      s.tool === "move"
        ? chosen.some((c) => c.can_move)
          ? "move"
          : "turn"
        : chosen.some((c) => c.can_turn)
          ? "turn"
          : "move";
    const axes: Axes = s.axes[tool];
    const p = member.pose.controls;
    const at = member.rig.controls.indexOf(last) * CONTROL;
    const basis = new THREE.Quaternion();
    if (axes === "own") basis.fromArray(p, at + 3);
    else if (axes === "parent") basis.fromArray(p, at + 8);
    else if (axes === "view") this.view.camera.getWorldQuaternion(basis);
    const pivot = tool === "turn" ? pivotPlace(s) : null;
    const dropped = pivot !== null && s.dropped !== null;
    return {
      origin: dropped ? new THREE.Vector3().fromArray(pivot) : new THREE.Vector3().fromArray(p, at),
      basis,
      tool,
      axes,
      pivot,
      dropped,
    };
  }

  gripAt(pointer: THREE.Vector2): Grip | null {
    const stand = this.stand();
    return stand && gripAt(stand, this.on, pointer);
  }

  // Picking

  /** The control under the pointer: its outline, unless that lies well behind the skin, or else that of the skin. */
  pick(pointer: THREE.Vector2): { member: Member; control: string } | null {
    const outline = this.outlineUnder(pointer);
    const member = active();
    const best = desk().looks.pickSkin ? this.skinUnder(pointer) : null;
    // Outlines inside the body are meant to be reached; one on its far side is not what was pointed at.
    const behind = best && outline && outline.distance > best.distance + 0.12 * best.member.rig.height;
    if (outline && member && !behind) return { member, control: outline.name };
    if (!best) return null;
    const [fk, ik] = best.member.rig.picks[best.joint];
    const limb = best.member.controls.get(fk)?.limb;
    const usesIk = limb && best.member.pose.values[best.member.channels.get(`${limb}/ik`) ?? -1] > 0.5;
    return { member: best.member, control: this.shownAbove(best.member, usesIk ? ik : fk) };
  }

  private skinUnder(pointer: THREE.Vector2) {
    const caster = casterAt(pointer, this.on);
    let best: { member: Member; joint: number; distance: number; place: THREE.Vector3 } | null = null;
    for (const member of desk().cast) {
      const hit = this.figures.get(member.id)?.hit(caster);
      if (hit && (!best || hit.distance < best.distance)) best = { member, ...hit };
    }
    return best;
  }

  /** Where a pivot dropped at a pixel lies: on the skin, else as far away as the handle; without one, on the handle. */
  pivotUnder(pointer: THREE.Vector2 | null): THREE.Vector3 | null {
    const stand = this.stand();
    if (!pointer || !stand) return stand?.origin ?? null;
    return this.skinUnder(pointer)?.place ?? placeBeside(stand.origin, pointer, this.on);
  }

  /** The control, or the nearest one that carries it and is not hidden away. */
  private shownAbove(member: Member, name: string): string {
    const { hidden } = desk().looks;
    let control = member.controls.get(name);
    while (control?.parent && !toHand(member, control, hidden)) control = member.controls.get(control.parent);
    return control?.name ?? name;
  }

  outlineAt(pointer: THREE.Vector2): string | null {
    return this.outlineUnder(pointer)?.name ?? null;
  }

  private outlineUnder(pointer: THREE.Vector2): { name: string; distance: number } | null {
    let best: { name: string; near: number; distance: number } | null = null;
    const eye = this.view.camera.position;
    const [a, b] = [new THREE.Vector3(), new THREE.Vector3()];
    for (const { control, from, to } of this.drawn) {
      for (let n = from; n < to; n += 6) {
        a.fromArray(this.world, n);
        b.fromArray(this.world, n + 3);
        const near = toSegment(pointer, a, b, this.on);
        if (near < 6 && (!best || near < best.near - 0.5))
          best = { name: control.name, near, distance: a.distanceTo(eye) };
      }
    }
    return best;
  }

  /** Controls whose place lies inside an outline of pixels. */
  within(area: THREE.Vector2[]): string[] {
    const member = active();
    if (!member) return [];
    const inside = (p: THREE.Vector2) => {
      let odd = false;
      for (let i = 0, j = area.length - 1; i < area.length; j = i++) {
        const [a, b] = [area[i], area[j]];
        if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) odd = !odd;
      }
      return odd;
    };
    const centre = new THREE.Vector3();
    return this.drawn
      .filter(({ control, from, to }) => {
        if (control.kind === "master") return inside(toPixels(centre.fromArray(member.pose.controls, 0), this.on));
        centre.set(0, 0, 0);
        for (let n = from; n < to; n += 3) centre.add(new THREE.Vector3().fromArray(this.world, n));
        return inside(toPixels(centre.divideScalar((to - from) / 3), this.on));
      })
      .map(({ control }) => control.name);
  }

  // Pictures

  /** A small picture of the cast at the pose shown now, as a canvas. */
  snapshot(width: number, height: number, name: ViewName, sheet: string): HTMLCanvasElement {
    if (this.small?.width !== width * 2 || this.small.height !== height * 2) {
      this.small?.dispose();
      this.small = new THREE.WebGLRenderTarget(width * 2, height * 2, { samples: this.slow ? 0 : 4 });
    }
    const target = this.small;
    const view = new View(name, [0, 2]);
    view.aspect = width / height;
    const member = active();
    if (member) view.frame(this.middle(member), member.rig.height * 0.56);
    for (const each of desk().cast) this.figures.get(each.id)?.write(each.pose);
    this.renderer.setRenderTarget(target);
    this.renderer.setScissorTest(false);
    this.renderer.setClearColor(sheet);
    this.renderer.clear();
    this.renderer.render(this.scene, view.camera);
    const pixels = new Uint8ClampedArray(width * height * 16);
    this.renderer.readRenderTargetPixels(target, 0, 0, width * 2, height * 2, pixels);
    this.renderer.setRenderTarget(null);
    this.renderer.setScissorTest(true);
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [width * 2, height * 2];
    for (let n = 0; n < pixels.length; n++) if (n % 4 !== 3) pixels[n] = TO_SRGB[pixels[n]];
    const image = new ImageData(width * 2, height * 2);
    const row = width * 8;
    for (let y = 0; y < height * 2; y++)
      image.data.set(pixels.subarray(y * row, (y + 1) * row), (height * 2 - 1 - y) * row);
    canvas.getContext("2d")!.putImageData(image, 0, 0);
    return canvas;
  }
}

/** One flat, see-through tone; each ghost hides what of itself lies behind. */
function ghostTone() {
  return new THREE.MeshBasicMaterial({
    transparent: true,
    opacity: 0.28,
    depthWrite: true,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 4,
  });
}

/** What is drawn beside the canvas holds linear light; pictures for the page are sRGB. */
const TO_SRGB = Uint8ClampedArray.from({ length: 256 }, (_, n) => {
  const c = n / 255;
  return 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
});

const v = new THREE.Vector3();
const q = new THREE.Quaternion();
/** Writes a control's outline into the world; returns where the next one begins. */
function place(
  points: Float32Array,
  control: Control,
  pose: Float32Array,
  at: number,
  out: Float32Array,
  to: number,
): number {
  q.set(pose[at + 3], pose[at + 4], pose[at + 5], pose[at + 6]);
  const scale = pose[at + 7];
  const { size, offset } = control.shape;
  for (let n = 0; n < points.length; n += 3) {
    v.set(points[n] * size + offset[0], points[n + 1] * size + offset[1], points[n + 2] * size + offset[2]);
    v.multiplyScalar(scale).applyQuaternion(q);
    out[to++] = v.x + pose[at];
    out[to++] = v.y + pose[at + 1];
    out[to++] = v.z + pose[at + 2];
  }
  return to;
}
