import { multipliedLayout, multiply, type PixelLayout, pictureBytes, pixelLayout, unmultiply } from '../picture/index.js';
import { KernelMotion, openMotion } from './index.js';

const [WIDTH, HEIGHT] = [128, 96];
const SIZE = { width: WIDTH, height: HEIGHT };
const layoutOf = (name: string): PixelLayout => pixelLayout(name) as PixelLayout;

/** A disc with a soft edge and stripes on it, so far to the right; under what is not seen lies what is asked for. */
function disc(layout: PixelLayout, right: number, under: (i: number) => number): Uint8Array {
  const out = new Uint8Array(pictureBytes(layout, WIDTH, HEIGHT));
  const samples = layout.bytes === 2 ? new Uint16Array(out.buffer) : out;
  const scale = 2 ** (layout.bits - 8);
  const n = WIDTH * HEIGHT;
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const away = Math.hypot(x - 44 - right, y - 48);
      const opaque = Math.max(0, Math.min(1, (28 - away) / 6));
      const i = y * WIDTH + x;
      const shade = [150, 110, 190].map((mean, plane) => mean + 50 * Math.sin((x - right) * (0.3 + 0.05 * plane) + y * 0.2));
      shade.forEach((value, plane) => {
        samples[plane * n + i] = Math.round((opaque === 0 ? under(plane * n + i) : value) * scale);
      });
      samples[3 * n + i] = Math.round(opaque * (2 ** layout.bits - 1));
    }
  }
  return out;
}

const noise = (i: number): number => ((i * 2654435761) >>> 7) % 256;

/** What is made half way between a disc and the same further on. */
function made(layout: PixelLayout, under: (i: number) => number): { picture: Uint8Array; certainty: number } {
  const engine = openMotion(layout, SIZE, { alpha: 'straight' });
  engine.push(disc(layout, 0, under));
  engine.push(disc(layout, 9, (i) => under(i + 77_777)));
  const picture = new Uint8Array(pictureBytes(layout, WIDTH, HEIGHT));
  const { certainty, moved } = engine.make(0.5, picture);
  expect(moved).toBe(true);
  return { picture, certainty };
}

test.each(['gbrap', 'yuva444p', 'yuva444p10le', 'gbrap16le'])(
  '%s: what lies where nothing is seen has no say, to the bit',
  (name) => {
    const layout = layoutOf(name);
    const black = made(layout, () => 16);
    const same = (under: (i: number) => number) => {
      const { picture, certainty } = made(layout, under);
      expect(certainty).toBe(black.certainty);
      expect(Buffer.compare(picture, black.picture)).toBe(0);
    };
    same(noise);
    same(() => 200);
  },
);

test('the disc is made where it is in between, colour and alpha alike', () => {
  const layout = layoutOf('gbrap');
  const { picture, certainty } = made(layout, noise);
  const truth = disc(layout, 4.5, () => 0);
  const n = WIDTH * HEIGHT;
  let [alpha, colour] = [0, 0];
  for (let i = 0; i < n; i++) {
    const opaque = truth[3 * n + i] as number;
    alpha += ((picture[3 * n + i] as number) - opaque) ** 2;
    for (let at = 0; at < 3 * n; at += n)
      colour += ((((picture[at + i] as number) - (truth[at + i] as number)) * opaque) / 255) ** 2;
  }
  const decibel = (sum: number): number => 10 * Math.log10((255 * 255) / (sum / n));
  expect(decibel(alpha)).toBeGreaterThan(38);
  expect(decibel(colour / 3)).toBeGreaterThan(34);
  expect(certainty).toBeGreaterThan(0.7);
});

test('where nothing is seen in either picture nothing is made', () => {
  const layout = layoutOf('gbrap');
  const { picture } = made(layout, noise);
  const n = WIDTH * HEIGHT;
  // Two rows at the top, far from the disc.
  for (let i = 0; i < 2 * WIDTH; i++) for (let at = 0; at < 4 * n; at += n) expect(picture[at + i]).toBe(0);
});

test('certainty counts what is seen: noise that nobody sees makes nothing unsure', () => {
  const layout = layoutOf('gbrap');
  const flat = layoutOf('gbrp');
  const { certainty } = made(layout, noise);
  const engine = new KernelMotion(flat, WIDTH, HEIGHT);
  const bytes = pictureBytes(flat, WIDTH, HEIGHT);
  engine.push(disc(layout, 0, noise).subarray(0, bytes));
  engine.push(disc(layout, 9, (i) => noise(i + 77_777)).subarray(0, bytes));
  expect(engine.make(0.5, new Uint8Array(bytes)).certainty).toBeLessThan(certainty - 0.2);
});

test.each(['gbrap', 'yuva444p'])('%s: 8 bit comes back from being multiplied, however faint', (name) => {
  const layout = layoutOf(name);
  const size = { width: 16, height: 16 };
  const n = 256;
  const picture = new Uint8Array(4 * n);
  const back = new Uint8Array(4 * n);
  const multiplied = new Uint8Array(pictureBytes(multipliedLayout(layout), 16, 16));
  for (let alpha = 1; alpha < 256; alpha++) {
    for (let i = 0; i < n; i++) for (let at = 0; at < 4 * n; at += n) picture[at + i] = at === 3 * n ? alpha : i;
    multiply(layout, size, picture, multiplied);
    unmultiply(layout, size, multiplied, back);
    // Luma below black has no room below it: times alpha it is cut off there.
    const first = layout.rgb ? 0 : 16;
    expect([...back.subarray(first, n)]).toEqual([...picture.subarray(first, n)]);
    expect(back[3 * n]).toBe(alpha);
  }
});
