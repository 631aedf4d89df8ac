// Many thick line segments in one draw call, rewritten when the pose changes.
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";

export class Lines {
  readonly object: LineSegments2;
  readonly material: LineMaterial;
  private positions: Float32Array = new Float32Array(0);
  private colours: Float32Array = new Float32Array(0);
  private used = 0;
  private readonly geometry = new LineSegmentsGeometry();

  constructor(width: number, onTop: boolean, order: number) {
    this.material = new LineMaterial({ linewidth: width, vertexColors: true, depthTest: !onTop, transparent: onTop });
    this.object = new LineSegments2(this.geometry, this.material);
    this.object.frustumCulled = false;
    this.object.renderOrder = order;
    this.object.layers.set(1);
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
    this.positions = (this.geometry.getAttribute("instanceStart") as THREE.InterleavedBufferAttribute).data
      .array as Float32Array;
    this.colours = (this.geometry.getAttribute("instanceColorStart") as THREE.InterleavedBufferAttribute).data
      .array as Float32Array;
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
    this.object.visible = this.used > 0;
    for (const name of ["instanceStart", "instanceColorStart"])
      (this.geometry.getAttribute(name) as THREE.InterleavedBufferAttribute).data.needsUpdate = true;
  }

  dispose() {
    this.geometry.dispose();
    this.material.dispose();
  }
}
