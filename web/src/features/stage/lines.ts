// Many line segments in one draw call, rewritten when the pose changes: thick ones, and thin ones that cost little.
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import { LAYER } from "./views";

export class Lines {
  readonly object: LineSegments2;
  readonly material: LineMaterial;
  /** The same lines, one pixel thick, where a picture has to be quick without a graphics card. */
  readonly thin: THREE.LineSegments;
  private positions: Float32Array = new Float32Array(0);
  private colours: Float32Array = new Float32Array(0);
  private used = 0;
  private readonly geometry = new LineSegmentsGeometry();
  private readonly thinGeometry = new THREE.BufferGeometry();

  constructor(width: number, onTop: boolean, order: number, layer: number) {
    this.material = new LineMaterial({ linewidth: width, vertexColors: true, depthTest: !onTop, transparent: onTop });
    this.object = new LineSegments2(this.geometry, this.material);
    this.thin = new THREE.LineSegments(
      this.thinGeometry,
      new THREE.LineBasicMaterial({ vertexColors: true, depthTest: !onTop, transparent: onTop }),
    );
    for (const lines of [this.object, this.thin]) {
      lines.frustumCulled = false;
      lines.renderOrder = order;
    }
    this.object.layers.set(layer);
    this.thin.layers.set(LAYER.quick);
    this.grow(2048);
  }

  private grow(segments: number) {
    const [p, c] = [this.positions, this.colours];
    this.positions = new Float32Array(segments * 6);
    this.colours = new Float32Array(segments * 6);
    this.positions.set(p);
    this.colours.set(c);
    this.geometry.setPositions(this.positions);
    this.geometry.setColors(this.colours);
    // setPositions wraps the array it is given, so writing into ours and marking it dirty is enough.
    const array = (name: string) =>
      (this.geometry.getAttribute(name) as THREE.InterleavedBufferAttribute).data.array as Float32Array;
    this.positions = array("instanceStart");
    this.colours = array("instanceColorStart");
    this.thinGeometry.setAttribute("position", new THREE.BufferAttribute(this.positions, 3));
    this.thinGeometry.setAttribute("color", new THREE.BufferAttribute(this.colours, 3));
  }

  begin() {
    this.used = 0;
  }

  add(ax: number, ay: number, az: number, bx: number, by: number, bz: number, colour: THREE.Color) {
    if ((this.used + 1) * 6 > this.positions.length) this.grow((this.positions.length / 6) * 2);
    const at = this.used++ * 6;
    const p = this.positions;
    const c = this.colours;
    p[at] = ax;
    p[at + 1] = ay;
    p[at + 2] = az;
    p[at + 3] = bx;
    p[at + 4] = by;
    p[at + 5] = bz;
    c[at] = c[at + 3] = colour.r;
    c[at + 1] = c[at + 4] = colour.g;
    c[at + 2] = c[at + 5] = colour.b;
  }

  end() {
    this.geometry.instanceCount = this.used;
    this.thinGeometry.setDrawRange(0, this.used * 2);
    this.object.visible = this.thin.visible = this.used > 0;
    for (const name of ["instanceStart", "instanceColorStart"])
      (this.geometry.getAttribute(name) as THREE.InterleavedBufferAttribute).data.needsUpdate = true;
    for (const name of ["position", "color"]) this.thinGeometry.getAttribute(name).needsUpdate = true;
  }

  dispose() {
    this.geometry.dispose();
    this.thinGeometry.dispose();
    this.material.dispose();
    (this.thin.material as THREE.Material).dispose();
  }
}
