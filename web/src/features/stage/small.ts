// Small pictures of the cast, drawn beside the canvas: for cards, the library and the shots' thumbnails.
import * as THREE from "three";

/** What is drawn beside the canvas holds linear light; pictures for the page are sRGB. */
const TO_SRGB = Uint8ClampedArray.from({ length: 256 }, (_, n) => {
  const c = n / 255;
  return 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
});

export class SmallPictures {
  private target: THREE.WebGLRenderTarget | null = null;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly samples: number,
  ) {}

  /** A picture of so many pixels of the page, twice as fine. */
  draw(scene: THREE.Scene, camera: THREE.Camera, width: number, height: number, sheet: string): HTMLCanvasElement {
    const [w, h] = [width * 2, height * 2];
    if (this.target?.width !== w || this.target.height !== h) {
      this.target?.dispose();
      this.target = new THREE.WebGLRenderTarget(w, h, { samples: this.samples });
    }
    this.renderer.setRenderTarget(this.target);
    this.renderer.setScissorTest(false);
    this.renderer.setClearColor(sheet);
    this.renderer.clear();
    this.renderer.render(scene, camera);
    const pixels = new Uint8ClampedArray(w * h * 4);
    this.renderer.readRenderTargetPixels(this.target, 0, 0, w, h, pixels);
    this.renderer.setRenderTarget(null);
    this.renderer.setScissorTest(true);
    for (let n = 0; n < pixels.length; n++) if (n % 4 !== 3) pixels[n] = TO_SRGB[pixels[n]];
    const image = new ImageData(w, h);
    for (let y = 0; y < h; y++) image.data.set(pixels.subarray(y * w * 4, (y + 1) * w * 4), (h - 1 - y) * w * 4);
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [w, h];
    canvas.getContext("2d")!.putImageData(image, 0, 0);
    return canvas;
  }

  dispose() {
    this.target?.dispose();
  }
}
