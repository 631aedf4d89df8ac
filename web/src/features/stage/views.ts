// The directions the stage and its sights look from.
import * as THREE from "three";
import type { ViewName } from "../../model/types";

export const VIEW_LABELS: Record<ViewName, string> = {
  front: "Front",
  side: "Side",
  top: "Top",
  back: "Back",
  quarter: "Three-quarter",
  camera: "Shot camera",
};

/** What is drawn in which pictures: the layers that a camera sees. Skins and lights are on layer 0. */
export const LAYER = { outlines: 1, shadow: 2, ground: 3, ghosts: 4, handle: 5, quick: 6, marks: 7 };
export const SIGHT = [LAYER.ground, LAYER.marks];

// Where the eye stands: turn about the upright and height, radians. The side view looks at the character's left.
const ANGLES: Record<ViewName, [number, number]> = {
  front: [0, 0],
  side: [Math.PI / 2, 0],
  top: [0, Math.PI / 2],
  back: [Math.PI, 0],
  quarter: [0.62, 0.2],
  camera: [0.62, 0.2],
};

const ROUND = new THREE.Quaternion(0, 1, 0, 0); // a camera of three.js looks against its z axis

/** Metres: an eye so near to a camera is inside of it. */
const INSIDE = 0.6;

/** One direction of looking, with the camera that looks. Straight views are drawn without perspective. */
export class View {
  readonly target = new THREE.Vector3(0, 0.9, 0);
  private readonly wide = new THREE.PerspectiveCamera(28, 1, 0.01, 400);
  private readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.01, 400);
  private turned = 0;
  private raised = 0;
  distance = 4.6;
  name: ViewName = "quarter";
  aspect = 1;

  constructor(name: ViewName, layers: number[]) {
    this.see(layers);
    this.set(name);
  }

  /** What is seen from now on besides the skins. */
  see(layers: number[]) {
    for (const camera of [this.wide, this.flat]) {
      camera.layers.set(0);
      for (const layer of layers) camera.layers.enable(layer);
    }
  }

  set(name: ViewName) {
    this.name = name;
    [this.turned, this.raised] = ANGLES[name];
    this.update();
  }

  /** Whether it is drawn with perspective, from a place that can be near to something. */
  get inPerspective(): boolean {
    return this.name === "quarter" || this.name === "camera";
  }

  get camera(): THREE.PerspectiveCamera | THREE.OrthographicCamera {
    return this.inPerspective ? this.wide : this.flat;
  }

  /** Whether something that stands at a place hides from here what lies in a sphere about a centre, in metres. */
  coveredBy(place: THREE.Vector3, centre: THREE.Vector3, radius: number): boolean {
    if (this.inPerspective) return this.camera.position.distanceTo(place) < INSIDE;
    // Without perspective it covers what it stands before, however far away it is.
    const line = this.camera.getWorldDirection(new THREE.Vector3());
    const beside = place.clone().sub(centre);
    const nearer = beside.dot(line) < 0;
    return nearer && beside.addScaledVector(line, -beside.dot(line)).length() < radius;
  }

  /** Goes round the target; a straight view becomes a free one by it. */
  orbit(dx: number, dy: number) {
    this.name = "quarter";
    this.turned -= dx * 0.008;
    this.raised = Math.min(Math.max(this.raised + dy * 0.008, -1.5), 1.5);
    this.update();
  }

  pan(dx: number, dy: number, height: number) {
    const size = (2 * this.distance * Math.tan(THREE.MathUtils.degToRad(14))) / height;
    const camera = this.camera;
    this.target.addScaledVector(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0), -dx * size);
    this.target.addScaledVector(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 1), dy * size);
    this.update();
  }

  zoom(steps: number) {
    this.distance = Math.min(Math.max(this.distance * Math.exp(steps * 0.0012), 0.12), 200);
    this.update();
  }

  /** Brings a sphere into the picture. */
  frame(centre: THREE.Vector3, radius: number) {
    this.target.copy(centre);
    const fit = this.aspect < 1 ? radius / this.aspect : radius;
    this.distance = fit / Math.sin(THREE.MathUtils.degToRad(14));
    this.update();
  }

  /** The part of the picture that the film sees, as shares of its width and height; all of it but for a camera. */
  gate = { wide: 1, high: 1 };

  /** Looks as a shot camera does: along its z axis, through a lens onto a gate, millimetres, with room about it. */
  lookThrough(spot: ArrayLike<number>, lens: number, wide: number, high: number) {
    const camera = this.wide;
    camera.position.fromArray(spot as number[]);
    camera.quaternion.fromArray(spot as number[], 3).multiply(ROUND);
    const shape = wide / high;
    const room = 0.94;
    this.gate =
      this.aspect > shape
        ? { wide: (room * shape) / this.aspect, high: room }
        : { wide: room, high: (room * this.aspect) / shape };
    camera.fov = THREE.MathUtils.radToDeg(2 * Math.atan(high / (2 * lens) / this.gate.high));
    camera.near = 0.02;
    camera.far = 400;
    camera.aspect = this.aspect;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
  }

  update() {
    if (this.name === "camera") return; // it is looked through anew for every picture
    this.gate = { wide: 1, high: 1 };
    this.wide.fov = 28;
    const [c, s] = [Math.cos(this.raised), Math.sin(this.raised)];
    for (const camera of [this.wide, this.flat]) {
      camera.up.set(0, 1, 0);
      if (Math.abs(s) > 0.9999) camera.up.set(-Math.sin(this.turned), 0, -Math.cos(this.turned));
      camera.position.set(c * Math.sin(this.turned), s, c * Math.cos(this.turned)).multiplyScalar(this.distance);
      camera.position.add(this.target);
      camera.lookAt(this.target);
    }
    // Near enough that the figure is never sliced when looked at from close by.
    this.wide.near = Math.max(this.distance * 0.004, 0.002);
    this.wide.far = this.distance + 120;
    this.wide.aspect = this.aspect;
    this.wide.updateProjectionMatrix();
    const half = this.distance * Math.tan(THREE.MathUtils.degToRad(14));
    this.flat.left = -half * this.aspect;
    this.flat.right = half * this.aspect;
    this.flat.top = half;
    this.flat.bottom = -half;
    this.flat.near = -100;
    this.flat.far = 200;
    this.flat.updateProjectionMatrix();
    for (const camera of [this.wide, this.flat]) camera.updateMatrixWorld();
  }
}
