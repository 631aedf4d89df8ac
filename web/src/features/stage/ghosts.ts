// Ghosts: the active figure at its neighbouring keys, those before in one tone, those after in another.
import * as THREE from "three";
import { poseFrames } from "../../model/columns";
import { Pose, standsAlike } from "../../model/motion";
import type { Inks } from "../../theme";
import type { Drawn, Moment } from "./drawn";
import type { Figure } from "./figure";

/** One flat, see-through tone; each ghost hides what of itself lies behind. */
const tone = () =>
  new THREE.MeshBasicMaterial({
    transparent: true,
    opacity: 0.28,
    depthWrite: true,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 4,
  });

export class Ghosts implements Drawn {
  readonly group = new THREE.Group();
  readonly objects = [this.group];
  readonly needs = ["looks", "activeId", "playing", "cast"] as const;
  /** The frames of which ghosts are shown. */
  frames: number[] = [];
  private readonly before = tone();
  private readonly after = tone();
  private shown: { figure: Figure; of: number; pose: Pose }[] = [];

  constructor(
    private readonly figureOf: (id: number) => Figure | undefined,
    private readonly tag: HTMLElement,
  ) {}

  setInks(inks: Inks) {
    this.before.color.set(inks.axisZ);
    this.after.color.set(inks.axisX);
  }

  /** Lets all ghosts go, or those of one of the cast. */
  drop(of?: number) {
    for (const ghost of this.shown) if (of === undefined || ghost.of === of) this.remove(ghost);
    this.shown = of === undefined ? [] : this.shown.filter((ghost) => ghost.of !== of);
  }

  private remove({ figure }: { figure: Figure }) {
    this.group.remove(figure.group);
    figure.dispose();
  }

  write({ s, member }: Moment) {
    const count = s.playing ? 0 : s.looks.ghosts;
    const own = member && this.figureOf(member.id);
    const frames = member && own && count ? poseFrames(member) : [];
    const before = count ? frames.filter((f) => f < s.frame).slice(-count) : [];
    const after = frames.filter((f) => f > s.frame).slice(0, count);
    const wanted = [...before.map((f) => [f, this.before] as const), ...after.map((f) => [f, this.after] as const)];
    if (this.shown.some((ghost) => ghost.of !== member?.id)) this.drop();
    while (this.shown.length > wanted.length) this.remove(this.shown.pop()!);
    wanted.forEach(([frame, material], n) => {
      if (!this.shown[n]) {
        this.shown[n] = { figure: own!.ghost(material), of: member!.id, pose: new Pose(member!.motion.counts) };
        this.group.add(this.shown[n].figure.group);
      }
      const ghost = this.shown[n];
      for (const mesh of ghost.figure.meshes) mesh.material = material;
      member!.motion.show(frame, ghost.pose);
      ghost.figure.group.visible = !standsAlike(ghost.pose, member!.pose);
      if (ghost.figure.group.visible) ghost.figure.write(ghost.pose);
    });
    this.frames = wanted.map(([frame]) => frame);
    this.say([
      ["before ", before, this.before],
      ["after ", after, this.after],
    ]);
  }

  private say(parts: [string, number[], THREE.MeshBasicMaterial][]) {
    this.tag.style.display = this.frames.length ? "block" : "none";
    this.tag.replaceChildren(
      ...parts
        .filter(([, frames]) => frames.length)
        .map(([word, frames, { color }]) => {
          const tag = document.createElement("span");
          tag.textContent = `${word}${frames.join(", ")}  `;
          tag.style.color = `#${color.getHexString()}`;
          return tag;
        }),
    );
  }

  dispose() {
    this.drop();
    this.before.dispose();
    this.after.dispose();
  }
}
