// Without a graphics card, smooth edges cost more than all else. There they are drawn only once the picture rests.
import * as THREE from "three";

/** Whether WebGL is computed by the processor. */
export function drawnInSoftware(): boolean {
  const gl = document.createElement("canvas").getContext("webgl2");
  const told = gl?.getExtension("WEBGL_debug_renderer_info");
  const name = told ? String(gl!.getParameter(told.UNMASKED_RENDERER_WEBGL)) : "";
  gl?.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/** Draws into a multisampled picture as large as the canvas, and lays that over the canvas. */
export class FinePicture {
  private target: THREE.WebGLRenderTarget | null = null;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly material = new THREE.ShaderMaterial({
    uniforms: { picture: { value: null } },
    vertexShader: "varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }",
    fragmentShader:
      "uniform sampler2D picture; varying vec2 at;\nvoid main() { gl_FragColor = texture2D(picture, at);\n" +
      "#include <colorspace_fragment>\n}",
    depthTest: false,
    depthWrite: false,
  });

  constructor(private readonly renderer: THREE.WebGLRenderer) {
    const sheet = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material);
    sheet.frustumCulled = false;
    this.scene.add(sheet);
  }

  draw(paint: (into: THREE.WebGLRenderTarget) => void) {
    const size = this.renderer.getDrawingBufferSize(new THREE.Vector2());
    if (this.target?.width !== size.x || this.target.height !== size.y) {
      this.target?.dispose();
      // Pictures that are not the canvas hold linear light, which eight bits would be too coarse for.
      this.target = new THREE.WebGLRenderTarget(size.x, size.y, { samples: 4, type: THREE.HalfFloatType });
      this.target.scissorTest = true;
      this.material.uniforms.picture.value = this.target.texture;
    }
    paint(this.target);
    this.renderer.setRenderTarget(null);
    const css = this.renderer.getSize(new THREE.Vector2());
    this.renderer.setViewport(0, 0, css.x, css.y);
    this.renderer.setScissor(0, 0, css.x, css.y);
    this.renderer.render(this.scene, this.camera);
  }

  dispose() {
    this.target?.dispose();
    this.material.dispose();
  }
}
