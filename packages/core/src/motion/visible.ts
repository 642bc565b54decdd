import { multipliedLayout, multiply, type PixelLayout, pictureBytes, steering, unmultiply } from '../picture/index.js';
import type { EngineOptions, MadePicture, MotionEngine } from './engine.js';
import { KernelMotion } from './engine.wasm.js';
import { certaintyOf } from './fieldBetween.js';

/**
 * Pictures with alpha made between neighbours: colour is multiplied by alpha before anything is done with it, so that what lies where nothing is
 * seen has no say; motion is found by what is seen; colour and alpha are moved along the same vectors. How sure a picture is counts what is seen in it.
 */
export class VisibleMotion implements MotionEngine {
  private readonly engine: KernelMotion;
  private readonly inside: PixelLayout;
  private readonly multiplied: Uint8Array;
  private readonly steer: Uint8Array;
  /** The last two pictures as they came: at a cut the nearer one stands, untouched. */
  private came: Uint8Array[] = [];

  /** @param stored how the layout's colour is stored beside its alpha */
  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
    private readonly stored: 'straight' | 'multiplied',
    options: EngineOptions = {},
  ) {
    if (!layout.alpha) throw new RangeError('there is no alpha in it');
    this.inside = stored === 'straight' ? multipliedLayout(layout) : layout;
    this.engine = new KernelMotion(this.inside, width, height, { ...options, steered: true });
    this.multiplied = new Uint8Array(pictureBytes(this.inside, width, height));
    this.steer = new Uint8Array(width * height);
  }

  get ready(): boolean {
    return this.engine.ready;
  }

  push(picture: Uint8Array): void {
    if (this.stored === 'straight') multiply(this.layout, this, picture, this.multiplied);
    else this.multiplied.set(picture);
    steering(this.inside, this, this.multiplied, this.steer);
    this.engine.push(this.multiplied, this.steer);
    this.came = [...this.came.slice(-1), picture.slice()];
  }

  make(t: number, out: Uint8Array): MadePicture {
    const made = this.engine.make(t, this.multiplied);
    if (!made.moved) {
      out.set(this.came[t < 0.5 ? 0 : 1] as Uint8Array);
      return made;
    }
    if (this.stored === 'straight') unmultiply(this.layout, this, this.multiplied, out);
    else out.set(this.multiplied);
    return { certainty: this.certainty(), moved: true };
  }

  risk(): Float32Array {
    return this.engine.risk();
  }

  /** Of samples weighed by how opaque what was made is there; where nothing is seen there is nothing to be wrong. */
  private certainty(): number {
    const { width, height } = this;
    const bytes = this.multiplied;
    const alpha =
      this.inside.bytes === 2
        ? new Uint16Array(bytes.buffer).subarray(-width * height)
        : bytes.subarray(bytes.length - width * height);
    const risk = this.engine.risk();
    const across = (width + 1) >> 1;
    let [sum, seen] = [0, 0];
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const weight = alpha[y * width + x];
        sum += weight * risk[(y >> 1) * across + (x >> 1)];
        seen += weight;
      }
    }
    return seen === 0 ? 1 : certaintyOf(sum / seen);
  }
}
