import type { Wave } from './useWave.js';

/** The area in which a waveform is painted, in pixels, and the seconds that it shows. */
export interface WaveBox {
  readonly left: number;
  readonly width: number;
  readonly middle: number;
  /** Pixels of full scale, above and below the middle. */
  readonly half: number;
  readonly from: number;
  readonly to: number;
}

/** Paints a line from least to largest sample for every pixel; quiet sound keeps a hair's breadth. */
export function paintWave(context: CanvasRenderingContext2D, wave: Wave, box: WaveBox, tone: string): void {
  const { left, width, middle, half, from, to } = box;
  const perPixel = (to - from) / width;
  context.fillStyle = tone;
  for (let x = 0; x < width; x++) {
    const start = (from + x * perPixel - wave.from) / wave.bin;
    const end = Math.max(start + 1, start + perPixel / wave.bin);
    if (end <= 0 || start >= wave.lows.length) continue;
    let [low, high] = [0, 0];
    for (let i = Math.max(0, Math.floor(start)); i < Math.min(wave.lows.length, Math.floor(end)); i++) {
      low = Math.min(low, wave.lows[i] as number);
      high = Math.max(high, wave.highs[i] as number);
    }
    const top = Math.min(half, high * half);
    context.fillRect(left + x, middle - top, 1, Math.max(1, top - Math.max(-half, low * half)));
  }
}

/** How much a waveform is to be raised so that its loudest part nearly fills its place; quiet ones up to 20 times. */
export function raiseOf(wave: Wave): number {
  let most = 0;
  for (let i = 0; i < wave.highs.length; i++) most = Math.max(most, wave.highs[i] as number, -(wave.lows[i] as number));
  return most > 0 ? Math.min(20, 0.95 / most) : 1;
}
