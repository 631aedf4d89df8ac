// A character's skin on the stage. Its bones are written from the pose by reference; nothing is computed here but where
// there is no graphics card to bend the skin.
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import type { Member } from "../../desk/store";
import { JOINT, type Pose } from "../../model/motion";
import type { SkinLook } from "../../model/types";
import { PosedSurface } from "./posed";
import { LAYER } from "./views";

const place = new THREE.Vector3();
const turn = new THREE.Quaternion();
const scale = new THREE.Vector3();
const matrix = new THREE.Matrix4();

/** What a file holds of a skin: its surfaces at rest, with their materials, and its joints. */
interface Source {
  surfaces: { geometry: THREE.BufferGeometry; material: THREE.MeshStandardMaterial }[];
  names: string[];
  inverses: THREE.Matrix4[];
}

/** How a material blends by itself. */
interface Blend {
  transparent: boolean;
  opacity: number;
  depthWrite: boolean;
}

// The shadow is the figure laid flat on the ground, away from the light.
const FLAT = new THREE.Matrix4().set(1, 0.16, 0, 0, 0, 0, 0, 0.0015, 0, -0.14, 1, 0, 0, 0, 0, 1);

export class Figure {
  readonly group = new THREE.Group();
  readonly meshes: THREE.Mesh[] = [];
  private readonly skeleton: THREE.Skeleton;
  private readonly shade = new THREE.MeshBasicMaterial();
  private readonly blends = new Map<THREE.MeshLambertMaterial, Blend>();
  private readonly posed: PosedSurface[] = [];
  private readonly matrices: Float32Array;

  private constructor(
    private readonly source: Source,
    /** Whether skins are bent by the processor. */
    private readonly soft: boolean,
    /** The channels by which shapes morph the skin, in their order. */
    private readonly shapes: readonly number[],
    private readonly ghostly?: THREE.Material,
  ) {
    const bones = source.names.map((name) => {
      const flat = new THREE.Bone();
      flat.name = name;
      flat.matrixAutoUpdate = flat.matrixWorldAutoUpdate = false;
      return flat;
    });
    this.skeleton = new THREE.Skeleton(bones, source.inverses);
    this.matrices = new Float32Array(16 * bones.length);
    for (const surface of source.surfaces) {
      const geometry = this.bendable(surface.geometry);
      const mesh = this.mesh(geometry, ghostly ?? this.lit(surface.material));
      this.meshes.push(mesh);
      this.group.add(mesh);
      if (ghostly) mesh.layers.set(LAYER.ghosts);
      else this.group.add(this.shadow(geometry));
    }
    this.group.matrixWorldAutoUpdate = false;
  }

  static async load(member: Member, soft: boolean): Promise<Figure> {
    const url = `/api/castings/${member.id}/mesh.glb?v=${member.mesh}`;
    const found: THREE.SkinnedMesh[] = [];
    (await new GLTFLoader().loadAsync(url)).scene.traverse((node) => {
      if ((node as THREE.SkinnedMesh).isSkinnedMesh) found.push(node as THREE.SkinnedMesh);
    });
    const { bones, boneInverses } = found[0].skeleton;
    const surfaces = found.map(({ geometry, material }) => ({
      geometry,
      material: material as THREE.MeshStandardMaterial,
    }));
    return new Figure(
      { surfaces, names: bones.map((bone) => bone.name), inverses: boneInverses },
      soft,
      member.rig.shapes,
    );
  }

  /** The same skin in one tone, for another frame's pose; it shares this figure's surfaces. */
  ghost(material: THREE.Material): Figure {
    return new Figure(this.source, this.soft, this.shapes, material);
  }

  private bendable(geometry: THREE.BufferGeometry): THREE.BufferGeometry {
    if (!this.soft) return geometry;
    const posed = new PosedSurface(geometry);
    this.posed.push(posed);
    return posed.geometry;
  }

  private lit(own: THREE.MeshStandardMaterial): THREE.MeshLambertMaterial {
    const blend = { transparent: own.transparent, opacity: own.opacity, depthWrite: own.depthWrite };
    const { color, map, side, alphaTest } = own;
    const material = new THREE.MeshLambertMaterial({ color, map, side, alphaTest, ...blend });
    this.blends.set(material, blend);
    return material;
  }

  private shadow(geometry: THREE.BufferGeometry): THREE.Mesh {
    const mesh = this.mesh(geometry, this.shade);
    mesh.matrixWorld.copy(FLAT);
    mesh.layers.set(LAYER.shadow);
    return mesh;
  }

  private mesh(geometry: THREE.BufferGeometry, material: THREE.Material): THREE.Mesh {
    let mesh: THREE.Mesh;
    if (this.soft) mesh = new THREE.Mesh(geometry, material);
    else {
      const skinned = new THREE.SkinnedMesh(geometry, material);
      skinned.bindMode = THREE.DetachedBindMode;
      skinned.bind(this.skeleton, new THREE.Matrix4());
      // What a pointer might hit is anywhere.
      skinned.boundingSphere = new THREE.Sphere(new THREE.Vector3(), 1e6);
      skinned.boundingBox = new THREE.Box3(new THREE.Vector3(-1e6, -1e6, -1e6), new THREE.Vector3(1e6, 1e6, 1e6));
      mesh = skinned;
    }
    geometry.boundingSphere ??= new THREE.Sphere(new THREE.Vector3(), 1e6);
    mesh.frustumCulled = false;
    mesh.matrixAutoUpdate = mesh.matrixWorldAutoUpdate = false;
    return mesh;
  }

  write(pose: Pose) {
    const joints = pose.joints;
    this.skeleton.bones.forEach((bone, j) => {
      const at = j * JOINT;
      place.fromArray(joints, at);
      turn.fromArray(joints, at + 3);
      bone.matrixWorld.compose(place, turn, scale.setScalar(joints[at + 7]));
      if (this.soft) matrix.multiplyMatrices(bone.matrixWorld, this.source.inverses[j]).toArray(this.matrices, 16 * j);
    });
    for (const surface of this.posed) {
      surface.morph(this.shapes, pose.values);
      surface.bend(this.matrices);
    }
    if (this.soft || !this.shapes.length) return;
    for (const child of this.group.children) {
      const amounts = (child as THREE.Mesh).morphTargetInfluences;
      if (amounts) for (let n = 0; n < amounts.length; n++) amounts[n] = pose.values[this.shapes[n]] ?? 0;
    }
  }

  look(look: SkinLook | "dim", shade: string) {
    this.shade.color.set(shade);
    const clear = look === "clear" || look === "dim";
    const through = look === "dim" ? 0.16 : 0.35;
    for (const [material, own] of this.blends) {
      material.transparent = clear || own.transparent;
      material.opacity = clear ? through * own.opacity : own.opacity;
      material.depthWrite = !clear && own.depthWrite;
      material.needsUpdate = true;
    }
  }

  /** The joint whose part of the skin the ray hits first, and how far away; null when it misses. */
  hit(ray: THREE.Raycaster): { joint: number; distance: number; place: THREE.Vector3 } | null {
    const hits = ray.intersectObjects(this.meshes, false);
    if (!hits.length || !hits[0].face) return null;
    const geometry = (hits[0].object as THREE.Mesh).geometry;
    const [index, weight] = [geometry.getAttribute("skinIndex"), geometry.getAttribute("skinWeight")];
    const shares = new Map<number, number>();
    for (const v of [hits[0].face.a, hits[0].face.b, hits[0].face.c])
      for (let n = 0; n < 4; n++) {
        const joint = index.getComponent(v, n);
        shares.set(joint, (shares.get(joint) ?? 0) + weight.getComponent(v, n));
      }
    const joint = [...shares].reduce((a, b) => (b[1] > a[1] ? b : a))[0];
    return { joint, distance: hits[0].distance, place: hits[0].point };
  }

  /** Lets go what it alone holds; a ghost leaves surfaces and textures to its figure. */
  dispose() {
    this.skeleton.dispose();
    this.shade.dispose();
    for (const surface of this.posed) surface.dispose();
    if (this.ghostly) return;
    for (const { geometry, material } of this.source.surfaces) {
      geometry.dispose();
      material.map?.dispose();
      material.dispose();
    }
    for (const material of this.blends.keys()) material.dispose();
  }
}
