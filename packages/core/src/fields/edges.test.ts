import { Heap } from '@thawline/kernels';
import { alongEdges, hiddenPhases } from './edges.js';
import type { Samples } from './planes.js';
import { PHASES, SOURCES } from './weights.js';

const [WIDTH, HEIGHT] = [96, 64];
const [COLUMNS, ROWS] = [WIDTH / 8, HEIGHT / 8];
const OWN = SOURCES.indexOf('own');

/** Dark left of a line that leans by so many samples a line, light right of it, even over one sample. */
function edge(lean: number, bits = 8): Samples {
  const plane = bits > 8 ? new Uint16Array(WIDTH * HEIGHT) : new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const inside = Math.max(0, Math.min(1, x - WIDTH / 2 - lean * (y - HEIGHT / 2) + 0.5));
      plane[y * WIDTH + x] = Math.round((40 + 160 * inside) * 2 ** (bits - 8));
    }
  return plane;
}

/** The lines of the other parity made from those above and below alone, by a cubic down. */
function straightDown(truth: Samples, parity: number, bits = 8): Samples {
  const made = truth.slice();
  const at = (y: number, x: number): number => {
    const last = HEIGHT - 1 - ((HEIGHT - 1 - parity) & 1);
    return truth[Math.max(parity, Math.min(last, y)) * WIDTH + x] as number;
  };
  for (let y = 1 - parity; y < HEIGHT; y += 2)
    for (let x = 0; x < WIDTH; x++) {
      const value = (9 * (at(y - 1, x) + at(y + 1, x)) - at(y - 3, x) - at(y + 3, x) + 8) >> 4;
      made[y * WIDTH + x] = Math.max(0, Math.min(2 ** bits - 1, value));
    }
  return made;
}

const frame = (parity: number, bits = 8, source = OWN, v = 0) => ({
  width: WIDTH,
  height: HEIGHT,
  bits,
  parity,
  columns: COLUMNS,
  v: new Int16Array(COLUMNS * ROWS).fill(v),
  sources: new Uint8Array(COLUMNS * ROWS).fill(source),
});
/** Root of the mean square, away from the picture's edges, where nothing is taken. */
const missed = (a: Samples, b: Samples): number => {
  let [sum, n] = [0, 0];
  for (let y = 8; y < HEIGHT - 8; y++)
    for (let x = 24; x < WIDTH - 24; x++, n++) sum += ((a[y * WIDTH + x] as number) - (b[y * WIDTH + x] as number)) ** 2;
  return Math.sqrt(sum / n);
};

test.each([-3, -2, -1, 1, 2, 3])('an edge that leans by %s samples a line comes out straight', (lean) => {
  for (const parity of [0, 1]) {
    const truth = edge(lean);
    const down = straightDown(truth, parity);
    const made = down.slice();
    alongEdges(made, frame(parity));
    expect(missed(made, truth)).toBeLessThan(missed(down, truth) / 3);
    for (let y = parity; y < HEIGHT; y += 2)
      expect(made.slice(y * WIDTH, (y + 1) * WIDTH)).toEqual(truth.slice(y * WIDTH, (y + 1) * WIDTH));
  }
});

test('what is no edge stays: an upright edge, pickets, a bar that lies, little contrast; noise nearly', () => {
  let state = 7;
  const noise = (): number => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return (state / 0x7fffffff) * 255;
  };
  const plane = (light: (x: number, y: number) => number): Samples =>
    Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => light(i % WIDTH, Math.floor(i / WIDTH)));
  const plain = [
    edge(0),
    plane((x) => (x % 12 < 5 ? 30 : 210)),
    plane((_, y) => (y > 30 ? 30 : 210)),
    edge(2).map((value) => 120 + value / 20),
  ];
  for (const truth of plain) {
    const down = straightDown(truth, 0);
    const made = down.slice();
    alongEdges(made, frame(0));
    expect(made).toEqual(down);
  }
  const down = straightDown(plane(noise), 0);
  const made = down.slice();
  alongEdges(made, frame(0));
  expect(made.filter((value, i) => value !== down[i]).length).toBeLessThan((WIDTH * HEIGHT) / 1000);
});

test('only where fields beside do not show the missing lines: near a line a field, or where nothing is met', () => {
  const hides = hiddenPhases();
  const hidden = (source: (typeof SOURCES)[number]): number[] =>
    Array.from({ length: PHASES }, (_, phase) => phase).filter((phase) => hides[SOURCES.indexOf(source) * PHASES + phase]);
  expect(hidden('both')).toEqual([10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22]);
  expect(hidden('past')).toEqual(hidden('both'));
  expect(hidden('far')).toEqual([]);
  expect(hidden('own')).toHaveLength(PHASES);
  const truth = edge(2);
  const down = straightDown(truth, 0);
  for (const [lines, moved] of [
    [0, false],
    [1, true],
    [2, false],
    [-3, true],
  ] as const) {
    const made = down.slice();
    // Vectors count sixteenths of a sample over two fields.
    alongEdges(made, frame(0, 8, SOURCES.indexOf('both'), lines * 32));
    expect(missed(made, down) > 0).toBe(moved);
  }
});

test.each([8, 10, 12])('the kernel takes the very samples of the reference, of %s bits', (bits) => {
  const heap = new Heap();
  const bytes = bits > 8 ? 2 : 1;
  const n = WIDTH * HEIGHT;
  const [picture, v, sources, hides] = [
    heap.take(n * bytes),
    heap.take(2 * COLUMNS * ROWS),
    heap.take(COLUMNS * ROWS),
    heap.take(160),
  ];
  heap.u8(hides, SOURCES.length * PHASES).set(hiddenPhases());
  heap.i16(v, COLUMNS * ROWS).fill(0);
  heap.u8(sources, COLUMNS * ROWS).fill(OWN);
  for (const lean of [-2.9, -1.3, 0.4, 1.6, 2.2, 3.4])
    for (const parity of [0, 1]) {
      const made = straightDown(edge(lean, bits), parity, bits);
      const kept = bits > 8 ? heap.i16(picture, n) : heap.u8(picture, n);
      kept.set(made);
      alongEdges(made, frame(parity, bits));
      heap.kernels.alongEdges(picture, WIDTH, HEIGHT, parity, bytes, bits, COLUMNS, ROWS, v, sources, hides);
      expect(Array.from(kept)).toEqual(Array.from(made));
    }
});
