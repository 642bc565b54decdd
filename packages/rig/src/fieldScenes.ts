import { colour, type Pixel, Sensor, type Shader } from './canvas.js';
import { random } from './random.js';
import { sample, texture } from './texture.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, cos, floor, hypot, sin } = Math;

/** A place with detail as fine as pixels are, for measuring lines that are rebuilt: every moment of a field can be had whole. */
export interface FieldScene {
  readonly name: string;
  /** No threshold of the rebuild was chosen by it. */
  readonly keptOut: boolean;
  /** The picture at a moment, counted in fields of 96 a second; 720 lines are the measure of its motion. */
  readonly scene: (moment: number, width: number, height: number) => Shader;
  /** Sensor noise, standard deviation in 8-bit steps. */
  readonly noise: number;
}

/** Light at a place of a flat world, 16 to 235. */
type World = (x: number, y: number) => number;

/** Grains, finest as one pixel, with cracks between slabs. */
function slabs(seed: number): World {
  const grain = texture(seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.8 });
  const next = random(seed + 1);
  const lights = Float64Array.from({ length: 256 }, () => next() * 90);
  return (x, y) => {
    const row = floor(y / 61);
    const column = floor((x + (row % 2) * 47) / 94);
    const [u, v] = [x + (row % 2) * 47 - column * 94, y - row * 61];
    if (u < 2.5 || v < 2) return 40;
    return 88 + (lights[(column * 7 + row * 31) & 255] as number) + 50 * sample(grain, x, y);
  };
}

/** Boards with hard edges at many angles, one over the other. */
function boards(seed: number): World {
  const next = random(seed);
  const size = 1024;
  const all = Array.from({ length: 130 }, () => ({
    x: next() * size,
    y: next() * size,
    light: 25 + next() * 205,
    turn: next() * 3.14,
    long: 12 + next() * 120,
    thin: 1.2 + next() ** 2 * 40,
  }));
  const near = Array.from({ length: 256 }, (_, cell) =>
    all.filter((b) => {
      const [dx, dy] = [wrapped(b.x - (cell & 15) * 64 - 32, size), wrapped(b.y - (cell >> 4) * 64 - 32, size)];
      return hypot(dx, dy) < 46 + hypot(b.long, b.thin);
    }),
  );
  return (x, y) => {
    const [px, py] = [((x % size) + size) % size, ((y % size) + size) % size];
    let light = 120;
    for (const b of near[(floor(py / 64) << 4) + floor(px / 64)] ?? []) {
      const [dx, dy] = [wrapped(px - b.x, size), wrapped(py - b.y, size)];
      const [c, s] = [cos(b.turn), sin(b.turn)];
      if (abs(dx * c + dy * s) < b.long && abs(dy * c - dx * s) < b.thin) light = b.light;
    }
    return light;
  };
}

function wrapped(d: number, size: number): number {
  return d > size / 2 ? d - size : d < -size / 2 ? d + size : d;
}

/** Signs of strokes two to four pixels wide on a plate, in lines. */
function signs(seed: number, ground: number, ink: number): World {
  const next = random(seed);
  const glyphs = Array.from({ length: 64 }, () => Array.from({ length: 15 }, () => next() < 0.55));
  return (x, y) => {
    const [column, row] = [floor(x / 20), floor(y / 36)];
    const [u, v] = [floor((x - column * 20) / 4.4), floor((y - row * 36 - 5) / 5)];
    if (u > 2 || v < 0 || v > 4) return ground;
    return glyphs[(column * 13 + row * 29) & 63]?.[v * 3 + u] ? ink : ground;
  };
}

/** Wires and rails, nearly level and nearly upright, before a sky. */
function wires(seed: number): World {
  const clouds = texture(seed, { size: 256, coarsest: 4, octaves: 4 });
  return (x, y) => {
    const across = y + 0.07 * x;
    const up = x - 0.11 * y;
    if (((across % 37) + 37) % 37 < 1.6 || ((up % 53) + 53) % 53 < 1.5) return 34;
    return 165 + 30 * sample(clouds, x * 0.3, y * 0.3);
  };
}

/** Sails: large three-cornered cloths over each other, each with seams that run along one side. */
function sails(seed: number): World {
  const next = random(seed);
  const cloths = Array.from({ length: 40 }, () => {
    const [x, y, long, lean] = [next() * 1400, next() * 1000, 90 + next() * 160, (next() - 0.5) * 2.2];
    return { x, y, long, lean, seam: 11 + next() * 9, light: 60 + next() * 160 };
  });
  return (x, y) => {
    let light = 95 + y * 0.03;
    const [px, py] = [((x % 1400) + 1400) % 1400, ((y % 1000) + 1000) % 1000];
    for (const c of cloths) {
      const down = py - c.y;
      const aside = px - c.x - c.lean * down;
      if (down < 0 || down > c.long || aside < 0 || aside > (c.long - down) * 0.8) continue;
      light = aside % c.seam < 1.8 ? c.light * 0.7 : c.light;
    }
    return light;
  };
}

interface View {
  readonly x: number;
  readonly y: number;
  readonly zoom?: number;
  readonly turn?: number;
}

/** A world as a camera sees it that goes where it is told. */
function through(world: World, camera: (moment: number) => View): FieldScene['scene'] {
  return (moment, width, height) => {
    const { x, y, zoom = 1, turn = 0 } = camera(moment);
    const k = 720 / height;
    const [c, s] = [(cos(turn) * k) / zoom, (sin(turn) * k) / zoom];
    return lit((px, py) => {
      const [dx, dy] = [px - width / 2, py - height / 2];
      return world(dx * c - dy * s + 640 + x, dx * s + dy * c + 360 + y);
    });
  };
}

/** Discs cut out of one world that pass before another, which stands still. */
function before(ground: World, things: World, seed: number): FieldScene['scene'] {
  const next = random(seed);
  const discs = Array.from({ length: 9 }, () => ({
    ...{ x: next() * 1280, y: next() * 720, r: 40 + next() * 70, dx: (next() - 0.5) * 9, dy: (next() - 0.5) * 4 },
  }));
  return (moment, _, height) => {
    const k = 720 / height;
    return lit((px, py) => {
      const [x, y] = [px * k, py * k];
      for (const d of discs) {
        const [u, v] = [x - d.x - d.dx * moment, y - d.y - d.dy * moment];
        if (u * u + v * v < d.r * d.r) return things(u + 500, v + 300);
      }
      return ground(x, y);
    });
  };
}

/** What a pixel sees of a world: the mean of nine places in it. */
function lit(world: World): Shader {
  return (x: number, y: number, out: Pixel) => {
    let sum = 0;
    for (let j = -1; j <= 1; j++) for (let i = -1; i <= 1; i++) sum += world(x + i / 3, y + j / 3);
    const light = sum / 9;
    out[0] = light;
    out[1] = TINT.u + (light - 128) / 8;
    out[2] = TINT.v - (light - 128) / 10;
  };
}

const TINT = colour(118, 128, 126);

/** Scenes over which rebuilt lines are measured. Other seeds give other places. */
export function fieldScenes(seed: number): FieldScene[] {
  const of = (name: string, keptOut: boolean, build: () => FieldScene['scene'], noise = 0.5): FieldScene => {
    let built: FieldScene['scene'] | null = null;
    return {
      name,
      keptOut,
      noise,
      scene: (moment, width, height) => {
        built ??= build();
        return built(moment, width, height);
      },
    };
  };
  return [
    of('slabs, pan', false, () => through(slabs(seed + 1), (t) => ({ x: 2.3 * t, y: 0 }))),
    of('boards, hand-held', false, () =>
      through(boards(seed + 2), (t) => ({ x: 24 * sin(t * 0.11), y: 15 * sin(t * 0.17 + 1), turn: 0.02 * sin(t * 0.13) })),
    ),
    of('boards before slabs', false, () => before(slabs(seed + 3), boards(seed + 4), seed + 5)),
    of('signs, crawl', false, () => through(signs(seed + 6, 30, 215), (t) => ({ x: 0, y: 0.83 * t }))),
    of('wires, slow', false, () => through(wires(seed + 7), (t) => ({ x: 0.4 * t, y: 0.23 * t }))),
    of('slabs, zoom', false, () => through(slabs(seed + 8), (t) => ({ x: 3, y: 9, zoom: 1.006 ** t }))),
    of('boards, whip', true, () => through(boards(seed + 9), (t) => ({ x: 11.3 * t, y: -4.7 * t }))),
    of('slabs, turning', true, () => through(slabs(seed + 10), (t) => ({ x: 0, y: 0, turn: 0.004 * t }))),
    of('signs, swinging', true, () =>
      through(signs(seed + 11, 200, 50), (t) => ({ x: 40 * sin(t * 0.06), y: 9 * sin(t * 0.09) })),
    ),
    of('signs before boards', true, () => before(boards(seed + 12), signs(seed + 13, 210, 40), seed + 14)),
    of('wires, tilt', true, () => through(wires(seed + 15), (t) => ({ x: 0, y: 1.4 * t }))),
    of('slabs in noise', true, () => through(slabs(seed + 16), (t) => ({ x: -1.7 * t, y: 0.9 * t })), 3),
    of('boards, leap', true, () => through(boards(seed + 17), (t) => ({ x: 3.1 * t, y: 6.9 * t }))),
    of('sails, sinking', true, () => through(sails(seed + 18), (t) => ({ x: 0.6 * t, y: 1.06 * t }))),
    of('sails, gust', true, () => through(sails(seed + 19), (t) => ({ x: -6.2 * t, y: 2.9 * t }))),
    of('wires, drop', true, () => through(wires(seed + 20), (t) => ({ x: 0, y: 2.93 * t }))),
    of('slabs, plunge', true, () => through(slabs(seed + 22), (t) => ({ x: 0.3 * t, y: 5.1 * t }))),
    of('boards, rolling', true, () => through(boards(seed + 23), (t) => ({ x: 0, y: 0.5 * t, turn: 0.006 * t }))),
    of('sails in noise', true, () => through(sails(seed + 24), (t) => ({ x: 1.4 * t, y: 0.97 * t })), 3),
    of('signs, fall', true, () => through(signs(seed + 21, 60, 190), (t) => ({ x: 0.2 * t, y: 3.07 * t }))),
  ];
}

/** One picture of such a scene, packed yuv420p; noise differs from moment to moment. */
export function fieldPicture({ scene, noise }: FieldScene, moment: number, width: number, height: number): Uint8Array {
  return new Sensor(1 + Math.round(moment * 16), noise).expose(scene(moment, width, height), width, height);
}
