// A character's skin on the stage. Its bones are written from the pose by reference; nothing is computed here.
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { JOINT, type Pose } from "../../desk/motion";
import type { SkinLook } from "../../desk/types";

const place = new THREE.Vector3();
const turn = new THREE.Quaternion();
const scale = new THREE.Vector3();

export class Figure {
  readonly group = new THREE.Group();
  readonly meshes: THREE.SkinnedMesh[] = [];
  private readonly shadows: THREE.SkinnedMesh[] = [];
  private owner = true;
  private readonly skeleton: THREE.Skeleton;
  private readonly shade = new THREE.MeshBasicMaterial();

  private constructor(found: THREE.SkinnedMesh[], ghost?: THREE.Material) {
    const inverses = found[0].skeleton.boneInverses;
    const bones = found[0].skeleton.bones.map((bone) => {
      const flat = new THREE.Bone();
      flat.name = bone.name;
      flat.matrixAutoUpdate = flat.matrixWorldAutoUpdate = false;
      return flat;
    });
    this.skeleton = new THREE.Skeleton(bones, inverses);
    if (ghost) {
      this.owner = false;
      for (const mesh of found) this.meshes.push(this.skinned(mesh.geometry, ghost));
      for (const mesh of this.meshes) mesh.layers.set(4);
      this.group.add(...this.meshes);
      this.group.matrixWorldAutoUpdate = false;
      return;
    }
    for (const mesh of found) {
      const source = mesh.material as THREE.MeshStandardMaterial;
      const material = new THREE.MeshLambertMaterial({
        color: source.color,
        map: source.map,
        side: source.side,
        transparent: source.transparent,
        alphaTest: source.alphaTest,
      });
      this.meshes.push(this.skinned(mesh.geometry, material));
      this.shadows.push(this.skinned(mesh.geometry, this.shade));
    }
    // The shadow is the figure laid flat on the ground, away from the light.
    const flat = new THREE.Matrix4().set(1, 0.16, 0, 0, 0, 0, 0, 0.0015, 0, -0.14, 1, 0, 0, 0, 0, 1);
    for (const mesh of this.shadows) {
      mesh.matrixWorld.copy(flat);
      mesh.layers.set(2);
    }
    this.group.add(...this.meshes, ...this.shadows);
    this.group.matrixWorldAutoUpdate = false;
  }

  static async load(url: string): Promise<Figure> {
    const found: THREE.SkinnedMesh[] = [];
    (await new GLTFLoader().loadAsync(url)).scene.traverse((node) => {
      if ((node as THREE.SkinnedMesh).isSkinnedMesh) found.push(node as THREE.SkinnedMesh);
    });
    return new Figure(found);
  }

  /** The same skin in one tone, for another frame's pose; it shares this figure's surface. */
  ghost(material: THREE.Material): Figure {
    return new Figure(this.meshes, material);
  }

  private skinned(geometry: THREE.BufferGeometry, material: THREE.Material): THREE.SkinnedMesh {
    const mesh = new THREE.SkinnedMesh(geometry, material);
    mesh.bindMode = THREE.DetachedBindMode;
    mesh.bind(this.skeleton, new THREE.Matrix4());
    mesh.frustumCulled = false;
    mesh.matrixAutoUpdate = mesh.matrixWorldAutoUpdate = false;
    mesh.boundingSphere = new THREE.Sphere(new THREE.Vector3(), 1e6);
    mesh.boundingBox = new THREE.Box3(new THREE.Vector3(-1e6, -1e6, -1e6), new THREE.Vector3(1e6, 1e6, 1e6));
    return mesh;
  }

  write(pose: Pose) {
    const joints = pose.joints;
    this.skeleton.bones.forEach((bone, j) => {
      const at = j * JOINT;
      place.fromArray(joints, at);
      turn.fromArray(joints, at + 3);
      bone.matrixWorld.compose(place, turn, scale.setScalar(joints[at + 7]));
    });
  }

  look(look: SkinLook, shade: string) {
    this.shade.color.set(shade);
    for (const mesh of this.meshes) {
      const material = mesh.material as THREE.MeshLambertMaterial;
      material.transparent = look === "clear";
      material.opacity = look === "clear" ? 0.35 : 1;
      material.depthWrite = look !== "clear";
      material.needsUpdate = true;
    }
  }

  /** The joint whose part of the skin the ray hits first, and how far away; null when it misses. */
  hit(ray: THREE.Raycaster): { joint: number; distance: number; place: THREE.Vector3 } | null {
    const hits = ray.intersectObjects(this.meshes, false);
    if (!hits.length || !hits[0].face) return null;
    const geometry = (hits[0].object as THREE.SkinnedMesh).geometry;
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

  dispose() {
    if (!this.owner) return;
    for (const mesh of this.meshes) {
      mesh.geometry.dispose();
      (mesh.material as THREE.Material).dispose();
    }
    this.shade.dispose();
  }
}
