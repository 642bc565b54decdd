import { type PixelLayout, pictureBytes, pixelLayout } from '../picture/index.js';
import { KernelMotion, openMotion } from './index.js';

const LAYOUT = pixelLayout('gray') as PixelLayout;
const [WIDTH, HEIGHT] = [256, 128];

/** Waves once to sixteen times around, each at its own slant: nothing repeats. */
const WAVES = Array.from({ length: 16 }, (_, k) => ({ times: k + 1, slant: Math.sin(k * 2.3) * 0.3, phase: k * k * 1.7 }));

/** All around, turned about the upright axis by so many samples: it has no edge on either side. */
function around(turned: number): Uint8Array {
  const out = new Uint8Array(WIDTH * HEIGHT);
  const turn = (2 * Math.PI) / WIDTH;
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const a = (x - turned) * turn;
      const sum = WAVES.reduce((so, { times, slant, phase }) => so + Math.sin(times * a + slant * y + phase), 0);
      out[y * WIDTH + x] = Math.max(0, Math.min(255, Math.round(128 + 12 * sum)));
    }
  }
  return out;
}

/** The same picture with its seam elsewhere. */
function rolled(picture: Uint8Array, by: number): Uint8Array {
  const out = new Uint8Array(picture.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) out[y * WIDTH + ((x + by) % WIDTH)] = picture[y * WIDTH + x] as number;
  return out;
}

function between(engine: ReturnType<typeof openMotion>, a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(pictureBytes(LAYOUT, WIDTH, HEIGHT));
  engine.push(a);
  engine.push(b);
  engine.make(0.5, out);
  return out;
}

/** Mean squared error in dB of columns from..to, the seam being at 0. */
function decibel(a: Uint8Array, b: Uint8Array, from: number, to: number): number {
  let [sum, n] = [0, 0];
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = from; x < to; x++) {
      const at = y * WIDTH + ((x + WIDTH) % WIDTH);
      sum += ((a[at] as number) - (b[at] as number)) ** 2;
      n++;
    }
  }
  return 10 * Math.log10((255 * 255) / Math.max(sum / n, 1e-3));
}

const sphere = () => openMotion(LAYOUT, { width: WIDTH, height: HEIGHT }, { sphere: true });

test('a turn goes on over the seam, which is no worse than elsewhere and much better than at an edge', () => {
  const [a, b, truth] = [around(0), around(7), around(3.5)] as const;
  const made = between(sphere(), a, b);
  const flat = between(new KernelMotion(LAYOUT, WIDTH, HEIGHT), a, b);
  const [seam, middle] = [decibel(made, truth, -16, 16), decibel(made, truth, 48, WIDTH - 48)];
  expect(seam).toBeGreaterThan(middle - 0.5);
  expect(seam).toBeGreaterThan(decibel(flat, truth, -16, 16) + 6);
});

test('a picture rolled by a quarter gives what is made, rolled', () => {
  const [a, b] = [around(0), around(7)] as const;
  const made = between(sphere(), a, b);
  const quarter = WIDTH / 4;
  const other = between(sphere(), rolled(a, quarter), rolled(b, quarter));
  expect(decibel(other, rolled(made, quarter), 0, WIDTH)).toBeGreaterThan(45);
  const truth = around(3.5);
  expect(Math.abs(decibel(other, rolled(truth, quarter), 0, WIDTH) - decibel(made, truth, 0, WIDTH))).toBeLessThan(0.1);
});

test('odd sizes and halved chroma keep their shape', () => {
  const layout = pixelLayout('yuv420p') as PixelLayout;
  const engine = openMotion(layout, { width: 130, height: 67 }, { sphere: true });
  const picture = new Uint8Array(pictureBytes(layout, 130, 67)).map((_, i) => 60 + ((i * 7) % 90));
  engine.push(picture);
  engine.push(picture);
  const out = new Uint8Array(picture.length);
  expect(engine.make(0.5, out).moved).toBe(true);
  expect(Buffer.compare(out, picture)).toBe(0);
  expect(engine.risk()).toHaveLength(65 * 34);
});
