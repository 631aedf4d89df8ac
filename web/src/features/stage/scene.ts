// The stage and its sights: one canvas, one renderer, several directions. Drawn only when something changed.
import * as THREE from "three";
import type { Wanted } from "../../desk/pictures";
import { tick } from "../../desk/playing";
import { cameraNow, cameraOf } from "../../desk/camera";
import { mask } from "./mask";
import { otherPose } from "../../desk/other";
import { active, desk, type Member, onShow, playhead, useDesk } from "../../desk/store";
import type { ViewName } from "../../model/types";
import type { Inks } from "../../theme";
import { Figure } from "./figure";
import { drawnInSoftware, FinePicture } from "./fine";
import { Following } from "./following";
import { Ghosts } from "./ghosts";
import { Goings } from "./goings";
import { Ground } from "./ground";
import type { Drawn } from "./drawn";
import { type Grip, gripAt, type Ray, type Stand } from "./handle";
import { HandleMark } from "./handleMark";
import { pick, pivotUnder, surfaceUnder } from "./picking";
import { standOf } from "./standing";
import { lights } from "./lights";
import { Outlines } from "./outlines";
import { Marks } from "./marks";
import { AxisMark } from "./axis";
import { ComparedGhosts } from "./compared";
import { Paths } from "./paths";
import { Parts } from "./parts";
import { cameraBefore, middleOf, reachOf, sphereOf } from "./placing";
import { drawnQuickly, HELD, QUICK, REST, SMOOTH, smoothAtRest, whole, withShadow } from "./quality";
import { Guides } from "./guides";
import { SmallPictures } from "./small";
import { LAYER, View } from "./views";
import { StretchMark } from "./stretch";
import { Weight } from "./weight";
import { drawnOf, hideHidden, portrait } from "./whom";

export class StageScene {
  readonly renderer: THREE.WebGLRenderer;
  readonly view = new View("quarter", whole());
  readonly following = new Following(this.view);
  readonly sights: { view: View; box: HTMLElement }[] = [];
  readonly outlines = new Outlines();
  readonly ghosts: Ghosts;
  readonly marks: Marks;
  readonly parts: Parts;
  readonly stretch: StretchMark;
  readonly paths: Paths;
  readonly goings: Goings;
  private readonly scene = new THREE.Scene();
  private readonly figures = new Map<number, Figure>();
  /** Everything that is drawn besides the figures. */
  private readonly drawn: Drawn[];
  readonly handle: HandleMark;
  private readonly small: SmallPictures;
  private inks!: Inks;
  private asked = 0;
  readonly slow: boolean;
  private readonly fine: FinePicture | null;
  private resting = 0;
  private pictures = 0;
  private readonly stops: (() => void)[] = [];
  private readonly watch: ResizeObserver;
  loaded = false;
  /** Milliseconds of script for each picture of late, for the measurements under bench/. */
  readonly costs: number[] = [];

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly box: HTMLElement,
    letterTags: Record<"x" | "y" | "z", HTMLElement>,
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
    this.marks = new Marks(box);
    this.parts = new Parts(partsGroup);
    this.stretch = new StretchMark(partsGroup);
    this.paths = new Paths(partsGroup);
    this.goings = new Goings(partsGroup);
    this.handle = new HandleMark(letterTags);
    this.drawn = [
      new Ground(),
      this.ghosts,
      new ComparedGhosts((id) => this.figures.get(id)),
      this.outlines,
      this.stretch,
      this.parts,
      ...[new Weight(), new AxisMark(), new Guides(partsGroup)],
      this.goings,
      this.paths,
      this.marks,
      this.handle,
    ];
    this.renderer.setScissorTest(true);
    this.scene.add(...lights(), ...this.drawn.flatMap(({ objects }) => objects));
    this.watch = new ResizeObserver(() => this.resize());
    this.watch.observe(box);
    const needs = [...new Set(this.drawn.flatMap((one) => [...one.needs]))];
    this.stops.push(
      onShow(() => this.draw()),
      useDesk.subscribe((s, before) => {
        // Poses are told of by onShow; of the rest only what something drawn needs changes the picture.
        if (needs.some((key) => s[key] !== before[key])) this.draw();
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
    for (const one of this.drawn) one.dispose();
    for (const figure of this.figures.values()) figure.dispose();
    this.small.dispose();
    this.renderer.dispose();
  }

  setInks(inks: Inks) {
    this.inks = inks;
    for (const one of this.drawn) one.setInks(inks);
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
        const figure = await Figure.load(member, this.slow);
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
    const { looks, seen } = desk();
    for (const [id, figure] of this.figures) figure.look(seen[id] === "dim" ? "dim" : looks.skin, this.inks.shade);
    hideHidden(this.figures);
    this.draw();
  }

  whoIsDrawn = () => drawnOf(this.figures);

  /** Brings all who play into the picture. */
  private frameAll() {
    if (desk().cast.length < 2) return this.frameFigure();
    const { center, radius } = sphereOf(desk().cast);
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

  /** Brings the figure into the picture with so much of the ground about it that a way can be drawn there. */
  frameGround() {
    const member = active();
    if (!member) return;
    this.view.frame(middleOf(member), reachOf(member) * 2.6);
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
    const { camera, gate } = this.view;
    return { camera, gate, width: this.box.clientWidth, height: this.box.clientHeight };
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
    const quick = drawnQuickly(this.slow);
    if (quick) this.paintQuick(playing);
    else {
      this.view.see(whole());
      this.paintAll();
    }
    this.onCoarse?.(quick);
    this.costs.push(performance.now() - begun);
    if (this.costs.length > 240) this.costs.shift();
  }

  /** The stage at once with what the hand needs; the rest when there is time. */
  private paintQuick(playing: boolean) {
    this.view.see(QUICK);
    this.paint(this.view, this.box);
    this.view.see(whole());
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
    if (!desk().dragged) this.onCoarse?.(false);
    if (!smoothAtRest() || desk().dragged || desk().compared?.how === "beside") return;
    this.resting = window.setTimeout(() => {
      if (desk().playing || desk().dragged) return;
      this.pose();
      this.fine?.draw((into) => this.paintAll(into));
    }, SMOOTH - REST);
  }

  /** Told whether what is drawn is less than all there is. */
  onCoarse: ((coarse: boolean) => void) | null = null;
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
    if (withShadow()) view.camera.layers.enable(LAYER.shadow);
    else view.camera.layers.disable(LAYER.shadow);
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
    const before = cameraBefore(view);
    const own = before && desk().seen[before.id] !== "hidden" ? this.figures.get(before.id) : null;
    if (own) own.group.visible = false;
    this.paintBox(view, box, into);
    if (own) own.group.visible = true;
    mask(box, camera ? view.gate : null, this.inks.ink);
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
    for (const { lines } of this.drawn) lines?.material.resolution.set(r.width, r.height);
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
    const marked = s.looks.skin !== "only";
    // While playing the motion is judged, so only the figure is seen.
    const posing = marked && !s.playing;
    const now = { s, member: active(s), on: this.on, view: this.view.name, marked, posing };
    for (const one of this.drawn) one.write(now);
  }

  /** Where the handle stands; null when nothing is selected that moves or turns. */
  stand(): Stand | null {
    return standOf(this.on);
  }

  gripAt(pointer: THREE.Vector2): Grip | null {
    const stand = this.stand();
    return stand && gripAt(stand, this.on, pointer);
  }

  // Picking

  private get among() {
    return { outlines: this.outlines, figures: this.figures, unseen: cameraBefore(this.view), on: this.on };
  }

  pick(pointer: THREE.Vector2) {
    return pick(pointer, this.among);
  }

  pivotUnder(pointer: THREE.Vector2 | null): THREE.Vector3 | null {
    return pivotUnder(pointer, this.among);
  }

  surfaceUnder = (pointer: THREE.Vector2) => surfaceUnder(pointer, this.among);

  /** Controls whose place lies inside an area of pixels. */
  within(area: THREE.Vector2[]): string[] {
    const member = active();
    return member ? this.outlines.within(area, member, this.on) : [];
  }

  // Pictures
  snapshot = (wanted: Required<Wanted>) => portrait(this.scene, this.small, this.figures, wanted);
}
