// The stage and its sights: one canvas, one renderer, several directions. Drawn only when something changed.
import * as THREE from "three";
import { CONTROL } from "../../model/motion";
import { handleControl, pivotPlace, posedSelection } from "../../desk/pivot";
import type { Wanted } from "../../desk/pictures";
import { tick } from "../../desk/playing";
import { cameraNow, cameraOf } from "../../desk/camera";
import { mask } from "./mask";
import { otherPose } from "../../desk/other";
import { active, desk, type Member, onShow, playhead, toHand, useDesk } from "../../desk/store";
import type { Axes, ViewName } from "../../model/types";
import type { Inks } from "../../theme";
import { useLook } from "../../ui/look";
import { Figure } from "./figure";
import { drawnInSoftware, FinePicture } from "./fine";
import { Following } from "./following";
import { Ghosts } from "./ghosts";
import { Ground } from "./ground";
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
} from "./handle";
import { Lines } from "./lines";
import { Outlines } from "./outlines";
import { Marks } from "./marks";
import { AxisMark } from "./axis";
import { ComparedGhosts } from "./compared";
import { Paths } from "./paths";
import { Parts, partPlace, selectedPart } from "./parts";
import { middleOf, reachOf, sphereOf } from "./placing";
import { SmallPictures } from "./small";
import { LAYER, View } from "./views";
import { stretchingOf, StretchMark } from "./stretch";
import { Weight } from "./weight";

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
  "plant",
  "cast",
  "grips",
  "few",
  "balance",
  "paths",
  "pathsShown",
  "pathLooks",
  "moved",
  "mark",
  "pointed",
  "compared",
] as const;

const WHOLE = [LAYER.outlines, LAYER.marks, LAYER.shadow, LAYER.ground, LAYER.ghosts, LAYER.handle];
/** What is left out while something moves, where pictures are computed by the processor: thick outlines, shadows. */
const QUICK = [LAYER.quick, LAYER.ground, LAYER.ghosts, LAYER.handle];

/** Milliseconds after the last change at which a slow stage draws what it left out, and then smooth edges. */
const REST = 140;
/** The same while something is held: the hand may only pause. */
const HELD = 600;
const SMOOTH = 320;

export class StageScene {
  readonly renderer: THREE.WebGLRenderer;
  readonly view = new View("quarter", WHOLE);
  readonly following = new Following(this.view);
  readonly sights: { view: View; box: HTMLElement }[] = [];
  readonly outlines = new Outlines();
  readonly ghosts: Ghosts;
  private readonly other: ComparedGhosts;
  readonly marks: Marks;
  readonly parts: Parts;
  readonly stretch: StretchMark;
  readonly paths: Paths;
  private readonly weight = new Weight();
  private readonly axis = new AxisMark();
  private readonly scene = new THREE.Scene();
  private readonly figures = new Map<number, Figure>();
  private readonly handleLines = new Lines(2.6, true, 9, LAYER.handle);
  private readonly ground = new Ground();
  private readonly small: SmallPictures;
  private inks!: Inks;
  private handleInks!: HandleInks;
  private asked = 0;
  readonly slow: boolean;
  private readonly fine: FinePicture | null;
  private resting = 0;
  private pictures = 0;
  private readonly stops: (() => void)[] = [];
  private readonly watch: ResizeObserver;
  loaded = false;
  meant: Grip | null = null;
  /** Milliseconds of script for each picture of late, for the measurements under bench/. */
  readonly costs: number[] = [];

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly box: HTMLElement,
    private readonly letterTags: Record<"x" | "y" | "z", HTMLElement>,
    ghostTag: HTMLElement,
    partsGroup: SVGGElement,
  ) {
    this.slow = drawnInSoftware();
    this.renderer = new THREE.WebGLRenderer({
      canvas,
      antialias: !this.slow,
      preserveDrawingBuffer: this.slow,
      powerPreference: "high-performance",
    });
    this.fine = this.slow ? new FinePicture(this.renderer) : null;
    this.small = new SmallPictures(this.renderer, this.slow ? 0 : 4);
    this.ghosts = new Ghosts((id) => this.figures.get(id), ghostTag);
    this.other = new ComparedGhosts((id) => this.figures.get(id));
    this.scene.add(this.other.group);
    this.marks = new Marks(box);
    this.parts = new Parts(partsGroup);
    this.stretch = new StretchMark(partsGroup);
    this.paths = new Paths(partsGroup);
    this.renderer.setScissorTest(true);
    const sun = new THREE.DirectionalLight(0xfff4e0, 2.1);
    sun.position.set(-1.2, 3, 2.2);
    const sky = new THREE.HemisphereLight(0xf4f7fa, 0x8c8472, 1.75);
    for (const light of [sun, sky]) light.layers.enableAll();
    const { lines } = this.outlines;
    this.scene.add(sun, sky, this.ground.group, this.ghosts.group, lines.object, lines.thin, this.handleLines.object);
    for (const { lines } of [this.marks, this.weight, this.paths, this.axis]) this.scene.add(lines.object, lines.thin);
    this.scene.add(this.paths.small, this.paths.large);
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
    this.ghosts.dispose();
    this.other.dispose();
    for (const figure of this.figures.values()) figure.dispose();
    this.outlines.lines.dispose();
    this.marks.dispose();
    this.weight.dispose();
    this.axis.dispose();
    this.paths.dispose();
    this.handleLines.dispose();
    this.ground.dispose();
    this.small.dispose();
    this.renderer.dispose();
  }

  setInks(inks: Inks) {
    this.inks = inks;
    const colour = (hex: string) => new THREE.Color(hex);
    // Ochre, plum and slate: the arms are told apart by their letters first.
    const [x, y, z] = [inks.axisX, inks.axisY, inks.axisZ].map(colour);
    this.handleInks = { x, y, z, plain: colour(inks.faint), held: colour(inks.red) };
    this.outlines.setInks(inks);
    this.ghosts.setInks(inks);
    this.other.setInks(inks);
    this.marks.setInks(inks);
    this.parts.setInks(inks);
    this.stretch.setInks(inks);
    this.weight.setInks(inks);
    this.axis.setInks(inks);
    this.paths.setInks(inks);
    this.ground.lay(inks);
    this.relook();
  }

  /** Loads the skins of the cast, and frames all of them when somebody has come or gone. */
  async setCast(cast: Member[]) {
    for (const [id, figure] of this.figures) {
      if (cast.some((m) => m.id === id)) continue;
      this.ghosts.drop(id);
      this.scene.remove(figure.group);
      figure.dispose();
      this.figures.delete(id);
    }
    await Promise.all(
      cast.map(async (member) => {
        if (this.figures.has(member.id)) return;
        const figure = await Figure.load(`/api/castings/${member.id}/mesh.glb?v=${member.mesh}`, this.slow);
        if (!desk().cast.some((m) => m.id === member.id)) return figure.dispose(); // taken out meanwhile
        this.figures.set(member.id, figure);
        this.scene.add(figure.group);
      }),
    );
    this.relook();
    this.frameAll();
    this.loaded = true;
  }

  relook() {
    const { looks } = desk();
    for (const figure of this.figures.values()) figure.look(looks.skin, this.inks.shade);
    this.draw();
  }

  /** Brings all who play into the picture. */
  private frameAll() {
    const { cast } = desk();
    if (cast.length < 2) return this.frameFigure();
    const { center, radius } = sphereOf(cast);
    this.view.frame(center, radius * 1.08);
    this.following.keepAside();
    this.draw();
  }

  frameFigure() {
    const member = active();
    if (!member) return;
    this.view.frame(middleOf(member), reachOf(member) * 1.16);
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

  setView(name: ViewName) {
    this.view.set(name);
    this.draw();
  }

  /** Draws a sight beside the stage, anew as it is resized; hands back what takes it away again. */
  addSight(sight: { view: View; box: HTMLElement }): () => void {
    this.sights.push(sight);
    this.watch.observe(sight.box);
    this.draw();
    return () => {
      this.watch.unobserve(sight.box);
      this.sights.splice(this.sights.indexOf(sight), 1);
      this.draw();
    };
  }

  /** The stage and the pixel it is drawn on, for turning pixels into places. */
  get on(): Ray {
    return { camera: this.view.camera, width: this.box.clientWidth, height: this.box.clientHeight };
  }

  // Drawing

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
    const { playing } = desk();
    if (playing) {
      const moved = tick(now);
      this.draw();
      if (!moved && this.costs.length) return;
    }
    this.pose();
    this.pictures++;
    if (this.slow) this.paintQuick(playing);
    else this.paintAll();
    this.costs.push(performance.now() - begun);
    if (this.costs.length > 240) this.costs.shift();
  }

  /** The stage at once with what the hand needs; the rest when there is time. */
  private paintQuick(playing: boolean) {
    this.view.see(QUICK);
    this.paint(this.view, this.box);
    this.view.see(WHOLE);
    clearTimeout(this.resting);
    if (playing) {
      // One sight in turn with every fourth picture: they keep up, and cost the stage little.
      if (this.pictures % 4 === 0) this.paintSight(this.sights[(this.pictures / 4) % Math.max(this.sights.length, 1)]);
      return;
    }
    this.resting = window.setTimeout(() => this.rest(), desk().dragged ? HELD : REST);
  }

  private rest() {
    if (desk().playing) return;
    this.pose(); // small pictures may have been drawn of other frames since
    this.paintAll();
    if (!useLook.getState().smooth || desk().dragged || desk().compared?.how === "beside") return;
    this.resting = window.setTimeout(() => {
      if (desk().playing || desk().dragged) return;
      this.pose();
      this.fine?.draw((into) => this.paintAll(into));
    }, SMOOTH - REST);
  }

  private paintAll(into?: THREE.WebGLRenderTarget) {
    this.paint(this.view, this.box, into);
    for (const sight of this.sights) this.paintSight(sight, into);
  }

  private paintSight(sight: { view: View; box: HTMLElement } | undefined, into?: THREE.WebGLRenderTarget) {
    const { cast } = desk();
    if (!sight?.box.isConnected || !sight.box.clientWidth || !cast.length) return;
    const { view, box } = sight;
    view.aspect = box.clientWidth / box.clientHeight;
    const { center, radius } = sphereOf(cast);
    view.frame(center, radius);
    // The film is seen as it will be shown; other directions show paths as well.
    if (view.name === "camera") view.camera.layers.disable(LAYER.marks);
    else view.camera.layers.enable(LAYER.marks);
    this.paint(view, box, into);
  }

  private paint(view: View, box: HTMLElement, into?: THREE.WebGLRenderTarget) {
    const camera = view.name === "camera" ? cameraOf() : undefined;
    if (view.name === "camera" && !camera) view.set("quarter");
    if (camera) {
      const r = box.getBoundingClientRect();
      view.aspect = r.width / Math.max(r.height, 1);
      const { spot, lens, wide, high } = cameraNow(camera);
      view.lookThrough(spot, lens, wide, high);
    }
    const before = this.inTheWay(view);
    const own = before && this.figures.get(before.id);
    if (own) own.group.visible = false;
    this.paintBox(view, box, into);
    if (own) own.group.visible = true;
    mask(box, camera ? view.gate : null, this.inks.ink);
  }

  /** The shot camera, if the eye is where it is: it would cover the picture and take what is clicked there. */
  private inTheWay(view: View): Member | undefined {
    const camera = cameraOf();
    if (!camera) return undefined;
    const place = new THREE.Vector3().fromArray(cameraNow(camera).spot);
    const { center, radius } = sphereOf(desk().cast);
    return view.coveredBy(place, center, radius) ? camera : undefined;
  }

  private paintBox(view: View, box: HTMLElement, into?: THREE.WebGLRenderTarget) {
    const parent = this.canvas.parentElement!.getBoundingClientRect();
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
    this.renderer.setClearColor(this.inks.sheet);
    for (const { material } of [
      this.outlines.lines,
      this.marks.lines,
      this.weight.lines,
      this.paths.lines,
      this.axis.lines,
      this.handleLines,
    ])
      material.resolution.set(r.width, r.height);
    if (view === this.view && desk().compared?.how === "beside" && !into) return this.paintBeside(view, x, y, r);
    this.renderer.render(this.scene, view.camera);
  }

  /** This one in the left half of the stage and the other in the right, by the same camera. */
  private paintBeside(view: View, x: number, y: number, r: DOMRect) {
    const half = Math.floor(r.width / 2);
    const aspect = view.aspect;
    view.aspect = half / Math.max(r.height, 1);
    view.update();
    const draw = (left: number) => {
      this.renderer.setViewport(left, y, half - 1, r.height);
      this.renderer.setScissor(left, y, half - 1, r.height);
      this.renderer.render(this.scene, view.camera);
    };
    draw(x);
    const { cast } = desk();
    for (const member of cast) {
      const pose = otherPose(member, playhead.frame);
      if (pose) this.figures.get(member.id)?.write(pose);
    }
    draw(x + half + 1);
    for (const member of cast) this.figures.get(member.id)?.write(member.pose);
    view.aspect = aspect;
    view.update();
  }

  /** Writes the shown pose into bones, outlines and handle. */
  private pose() {
    const s = desk();
    this.following.follow();
    for (const member of s.cast) this.figures.get(member.id)?.write(member.pose);
    this.ghosts.write();
    this.other.write();
    // While playing the motion is judged, so only the figure is seen.
    const posing = s.looks.skin !== "only" && !s.playing;
    // The picture that is filmed is to be seen: of all outlines only those of what is selected lie over it.
    this.outlines.write(posing && s.tool !== "pull" ? active(s) : undefined, this.view.name === "camera");
    const member = active(s);
    this.stretch.write(posing && member && s.tool !== "pull" ? stretchingOf(member) : null, this.on);
    this.parts.write(posing && s.tool === "pull" ? active(s) : undefined, this.on);
    this.weight.write(active(s));
    this.axis.write(active(s));
    this.paths.write(this.on, s.looks.skin !== "only" && !s.playing);
    this.marks.write(s.looks.skin !== "only" ? active(s) : undefined, this.on);
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

  // The handle

  /** Where the handle stands and what it can do; null when nothing is selected that moves or turns. */
  stand(): Stand | null {
    const s = desk();
    const member = active(s);
    if (!member || !s.selection.length || s.looks.skin === "only") return null;
    if (s.tool === "pull") {
      const part = selectedPart(member);
      if (part) {
        const origin = partPlace(member, part, new THREE.Vector3());
        return { origin, basis: new THREE.Quaternion(), tool: "move", axes: "world", pivot: null, dropped: false };
      }
    }
    const chosen = posedSelection(s);
    const last = handleControl(s);
    if (!last) return null;
    const can = { move: chosen.some((c) => c.can_move), turn: chosen.some((c) => c.can_turn) };
    const wished = s.tool === "turn" ? "turn" : "move";
    const tool = can[wished] ? wished : wished === "move" ? "turn" : "move";
    const axes: Axes = s.axes[tool];
    const p = member.pose.controls;
    const at = member.rig.controls.indexOf(last) * CONTROL;
    const basis = new THREE.Quaternion();
    if (axes === "own") basis.fromArray(p, at + 3);
    else if (axes === "parent") basis.fromArray(p, at + 8);
    else if (axes === "view") this.view.camera.getWorldQuaternion(basis);
    const pivot = tool === "turn" ? pivotPlace(s) : null;
    const dropped = pivot !== null && s.dropped !== null;
    const origin = dropped ? new THREE.Vector3().fromArray(pivot) : new THREE.Vector3().fromArray(p, at);
    return { origin, basis, tool, axes, pivot, dropped };
  }

  gripAt(pointer: THREE.Vector2): Grip | null {
    const stand = this.stand();
    return stand && gripAt(stand, this.on, pointer);
  }

  // Picking

  /** The control under the pointer: its outline, unless that lies well behind the skin, or else that of the skin. */
  pick(pointer: THREE.Vector2): { member: Member; control: string } | null {
    const outline = this.outlines.under(pointer, this.on);
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
    const unseen = this.inTheWay(this.view);
    for (const member of desk().cast) {
      if (member === unseen) continue;
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

  /** Controls whose place lies inside an area of pixels. */
  within(area: THREE.Vector2[]): string[] {
    const member = active();
    return member ? this.outlines.within(area, member, this.on) : [];
  }

  // Pictures

  /** A small picture of some of the cast at the pose shown now. */
  snapshot({ width, height, view: name, sheet, of, ground }: Required<Wanted>): HTMLCanvasElement {
    const view = new View(name === "camera" ? "quarter" : name, [LAYER.shadow, ...(ground ? [LAYER.ground] : [])]);
    view.aspect = width / height;
    const { center, radius } = sphereOf(of);
    view.frame(center, radius);
    for (const each of desk().cast) {
      const figure = this.figures.get(each.id);
      if (!figure) continue;
      figure.write(each.pose);
      figure.group.visible = of.includes(each);
    }
    const canvas = this.small.draw(this.scene, view.camera, width, height, sheet);
    for (const figure of this.figures.values()) figure.group.visible = true;
    return canvas;
  }
}
