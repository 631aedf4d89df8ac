// Skins bent by the processor, once a pose, where there is no graphics card to do it for every picture anew.
import * as THREE from "three";

/** A surface as it is bent now; corners and weights stay those of the surface it is made of. */
export class PosedSurface {
  readonly geometry = new THREE.BufferGeometry();
  private points: Float32Array;
  private normals: Float32Array;
  private readonly still: { points: Float32Array; normals: Float32Array };
  private readonly shapes: Shape[];
  private shaped = false;
  private readonly joints: Float32Array;
  private readonly weights: Float32Array;

  constructor(rest: THREE.BufferGeometry) {
    const { count } = rest.getAttribute("position");
    const empty = () => new THREE.BufferAttribute(new Float32Array(count * 3), 3).setUsage(THREE.DynamicDrawUsage);
    this.geometry.setIndex(rest.index);
    for (const name of ["uv", "skinIndex", "skinWeight"]) {
      const shared = rest.getAttribute(name);
      if (shared) this.geometry.setAttribute(name, shared);
    }
    this.geometry.setAttribute("position", empty());
    this.geometry.setAttribute("normal", empty());
    this.points = flat(rest.getAttribute("position"), 3);
    this.normals = flat(rest.getAttribute("normal"), 3);
    this.still = { points: this.points, normals: this.normals };
    const { position = [], normal = [] } = rest.morphAttributes;
    this.shapes = position.map((moves, n) => shapeOf(moves, normal[n]));
    this.joints = flat(rest.getAttribute("skinIndex"), 4);
    this.weights = flat(rest.getAttribute("skinWeight"), 4);
  }

  /** Gives it its shapes, by the channels of their amounts; the next bending is of what it is then. */
  morph(channels: readonly number[], values: Float32Array) {
    const some = this.shapes.map((shape, n) => [shape, values[channels[n]] ?? 0] as const).filter(([, much]) => much);
    if (!some.length && !this.shaped) return;
    this.shaped = some.length > 0;
    this.points = this.still.points.slice();
    this.normals = this.still.normals.slice();
    for (const [{ rows, moves, turns }, much] of some)
      rows.forEach((row, n) => {
        for (let c = 0; c < 3; c++) {
          this.points[3 * row + c] += much * moves[3 * n + c];
          this.normals[3 * row + c] += much * turns[3 * n + c];
        }
      });
  }

  /** Bends it by the joints' matrices, each from the bind pose to where the joint is: sixteen numbers, by columns. */
  bend(matrices: Float32Array) {
    const [position, normal] = ["position", "normal"].map((name) => this.geometry.getAttribute(name));
    const [to, turned] = [position.array as Float32Array, normal.array as Float32Array];
    const { points, normals, joints, weights } = this;
    // Written out, since this is done for every point of every picture.
    for (let v = 0, n = 0; v < position.count; v++, n += 3) {
      let m0 = 0;
      let m1 = 0;
      let m2 = 0;
      let m4 = 0;
      let m5 = 0;
      let m6 = 0;
      let m8 = 0;
      let m9 = 0;
      let m10 = 0;
      let m12 = 0;
      let m13 = 0;
      let m14 = 0;
      for (let i = 4 * v; i < 4 * v + 4; i++) {
        const w = weights[i];
        if (w === 0) continue;
        const at = joints[i] << 4;
        m0 += w * matrices[at];
        m1 += w * matrices[at + 1];
        m2 += w * matrices[at + 2];
        m4 += w * matrices[at + 4];
        m5 += w * matrices[at + 5];
        m6 += w * matrices[at + 6];
        m8 += w * matrices[at + 8];
        m9 += w * matrices[at + 9];
        m10 += w * matrices[at + 10];
        m12 += w * matrices[at + 12];
        m13 += w * matrices[at + 13];
        m14 += w * matrices[at + 14];
      }
      const x = points[n];
      const y = points[n + 1];
      const z = points[n + 2];
      to[n] = m0 * x + m4 * y + m8 * z + m12;
      to[n + 1] = m1 * x + m5 * y + m9 * z + m13;
      to[n + 2] = m2 * x + m6 * y + m10 * z + m14;
      const a = normals[n];
      const b = normals[n + 1];
      const c = normals[n + 2];
      turned[n] = m0 * a + m4 * b + m8 * c;
      turned[n + 1] = m1 * a + m5 * b + m9 * c;
      turned[n + 2] = m2 * a + m6 * b + m10 * c;
    }
    position.needsUpdate = normal.needsUpdate = true;
  }

  dispose() {
    this.geometry.dispose();
  }
}

/** What a shape adds to some points and their normals. */
interface Shape {
  rows: number[];
  moves: number[];
  turns: number[];
}

type Attribute = THREE.BufferAttribute | THREE.InterleavedBufferAttribute;

function shapeOf(moves: Attribute, turns?: Attribute): Shape {
  const [by, turned] = [flat(moves, 3), turns ? flat(turns, 3) : null];
  const shape: Shape = { rows: [], moves: [], turns: [] };
  for (let row = 0; row < moves.count; row++) {
    const own = by.subarray(3 * row, 3 * row + 3);
    const turn = turned?.subarray(3 * row, 3 * row + 3) ?? [0, 0, 0];
    if (![...own, ...turn].some(Boolean)) continue;
    shape.rows.push(row);
    shape.moves.push(...own);
    shape.turns.push(...turn);
  }
  return shape;
}

function flat(attribute: Attribute, width: number): Float32Array {
  const out = new Float32Array(attribute.count * width);
  for (let n = 0; n < attribute.count; n++)
    for (let c = 0; c < width; c++) out[n * width + c] = attribute.getComponent(n, c);
  return out;
}
