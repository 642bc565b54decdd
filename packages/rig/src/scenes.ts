import { blend, colour, edge, type Shader, set } from './canvas.js';
import { random } from './random.js';
import { lineSampler, sample, type Texture, texture } from './texture.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, floor, max, min, round, sin, sqrt } = Math;

/** A place before the camera: what its lens sees at a moment in seconds. Motion is continuous, so any rate may look at it. */
export type Scene = (seconds: number, width: number, height: number) => Shader;

const SKY_TOP = colour(120, 140, 150);
const SKY_LOW = colour(190, 203, 206);
const RIDGE = colour(84, 108, 116);
const WATER = colour(38, 62, 74);
const ICE = colour(220, 232, 236);
const WOOD = colour(112, 92, 74);

/** Math.hypot guards against overflow at many times the price. */
function length(x: number, y: number): number {
  return sqrt(x * x + y * y);
}

/** Height of the far ridge above the horizon at a world position, in pixels. */
function skyline(ground: Texture, x: number): number {
  return 46 + 38 * sample(ground, x * 0.35, 11) + 12 * sample(ground, x * 1.7, 97);
}

interface Floe {
  x: number;
  y: number;
  rx: number;
  ry: number;
  vx: number;
  vy: number;
  shade: number;
  grain: number;
}

export interface LakeOptions {
  readonly seed: number;
  /** Multiplies every floe's velocity. */
  readonly speed: number;
  readonly floes: number;
  /** Camera position at a moment, in pixels. */
  readonly camera?: (seconds: number) => { x: number; y: number };
}

/** Floes drifting on dark water under a ridge. */
export function lake(options: LakeOptions): Scene {
  const ground = texture(options.seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.62 });
  const water = texture(options.seed + 1, { size: 512, coarsest: 16, octaves: 6, roughness: 0.6 });
  const next = random(options.seed + 2);
  const floes: Floe[] = Array.from({ length: options.floes }, () => {
    const depth = next();
    return {
      x: next(),
      y: depth,
      rx: 26 + 74 * depth + 30 * next(),
      ry: 7 + 17 * depth,
      vx: (18 + 70 * depth + 20 * next()) * options.speed * (next() < 0.2 ? -0.5 : 1),
      vy: (next() - 0.5) * 8 * options.speed,
      shade: -26 * next(),
      grain: next() * 512,
    };
  });
  const clouds = lineSampler(ground);
  const rocks = lineSampler(ground);
  const ripples = lineSampler(water);
  const glints = lineSampler(water);
  return (seconds, width, height) => {
    const horizon = round(height * 0.42);
    const camera = options.camera?.(seconds) ?? { x: 0, y: 0 };
    const span = width + 320;
    const placed = floes.map((f) => {
      const travelled = f.x * span + f.vx * seconds;
      const x = (((travelled % span) + span) % span) - 160;
      return { ...f, cx: x, cy: horizon + 18 + f.y * (height - horizon - 30) + f.vy * sin(seconds * 0.7 + f.grain) };
    });
    const near = grid(placed, width, height, camera);
    const shares = new Float64Array(floes.length);
    const crest = crestLine(ground, width, camera.x);
    const drift = seconds * 9 * options.speed;
    return (px, py, out) => {
      const x = px + camera.x;
      const y = py + camera.y;
      const ridge = horizon - (crest[px] as number);
      const above = edge(y - horizon);
      if (above < 1) {
        const fall = max(0, y / horizon);
        const cloud = 10 * clouds(x * 0.5 - seconds * 3, y * 0.9 + 200);
        set(out, SKY_TOP, (SKY_LOW.y - SKY_TOP.y) * fall + cloud);
        const covered = edge(y - ridge);
        if (covered > 0) {
          const rock = 16 * rocks(x * 1.3, y * 1.3);
          blend(out, RIDGE, +rock, covered);
        }
        if (above === 0) return;
      }
      const cell = near[(py >> CELL_Y) * GRID_COLUMNS + (px >> CELL_X)] as (typeof placed)[number][];
      // From the nearest back to the first that hides everything behind it, so that hidden shapes are not painted.
      let first = cell.length;
      let hidden = false;
      while (first > 0 && !hidden) {
        const share = floeShare(ground, cell[--first] as (typeof placed)[number], x, y);
        shares[first] = share;
        hidden = share === 1;
      }
      if (!hidden) {
        const depth = 1 / (1 + (y - horizon) * 0.004);
        const ripple = ripples((x + drift) * depth, (y * 2.2 + drift * 0.4) * depth);
        const glint = glints((x - drift * 1.3) * 0.6 + 60, y * 3.1);
        set(out, WATER, 13 * ripple + 9 * glint * glint);
      }
      for (let i = first; i < cell.length; i++) {
        const share = shares[i] as number;
        if (share === 0) continue;
        const floe = cell[i] as (typeof placed)[number];
        const dy = (y - floe.cy) / floe.ry;
        const crust = 20 * sample(ground, (x - floe.cx) * 1.4 + floe.grain, (y - floe.cy) * 2.4) - 16 * max(0, dy);
        blend(out, ICE, +floe.shade + crust, share);
      }
    };
  };
}

/** Cells of 64 by 8 pixels; rows of the grid are wide enough for any picture the rig makes. */
const CELL_X = 6;
const CELL_Y = 3;
const GRID_COLUMNS = 64;

/** How much of a place a floe covers, 0 to 1. Well inside and well outside, where its ragged edge cannot reach, nothing is looked up. */
function floeShare(ground: Texture, floe: Floe & { cx: number; cy: number }, x: number, y: number): number {
  const dx = (x - floe.cx) / floe.rx;
  if (dx > 1.3 || dx < -1.3) return 0;
  const dy = (y - floe.cy) / floe.ry;
  const inside = 1 - sqrt(dx * dx + dy * dy);
  if (inside < -0.31) return 0;
  const ragged = RAGGED * ground.peak;
  if ((inside - ragged) * floe.ry >= 0.5) return 1;
  if ((inside + ragged) * floe.ry <= -0.5) return 0;
  return edge((inside + RAGGED * sample(ground, (x - floe.cx) * 0.9 + floe.grain, (y - floe.cy) * 2 + floe.grain)) * floe.ry);
}

/** How far a floe's edge goes in and out, as a share of its size. */
const RAGGED = 0.22;

/** Floes by the cells of the picture they may touch, nearest last. */
function grid<T extends { cx: number; cy: number; rx: number; ry: number }>(
  items: T[],
  width: number,
  height: number,
  camera: { x: number; y: number },
): T[][] {
  const cells: T[][] = Array.from({ length: ((height >> CELL_Y) + 1) * GRID_COLUMNS }, () => []);
  for (const item of [...items].sort((a, b) => a.cy - b.cy)) {
    const x = item.cx - camera.x;
    const y = item.cy - camera.y;
    const left = max(0, floor(x - item.rx * 1.4)) >> CELL_X;
    const right = min(width - 1, ceil(x + item.rx * 1.4)) >> CELL_X;
    const top = max(0, floor(y - item.ry * 1.4)) >> CELL_Y;
    const bottom = min(height - 1, ceil(y + item.ry * 1.4)) >> CELL_Y;
    for (let row = top; row <= bottom; row++) {
      for (let column = left; column <= right; column++) cells[row * GRID_COLUMNS + column]?.push(item);
    }
  }
  return cells;
}

/** The ridge's height in each column of a picture: the same all the way down, so found once. */
function crestLine(ground: Texture, width: number, shift: number): Float64Array {
  return Float64Array.from({ length: width }, (_, x) => skyline(ground, x + shift));
}

/** A jetty of posts and planks before the ridge, panned at an even speed in pixels a second. */
export function jetty(seed: number, pixelsPerSecond: number): Scene {
  const ground = texture(seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.62 });
  const grain = texture(seed + 1, { size: 512, coarsest: 32, octaves: 5, roughness: 0.7 });
  const clouds = lineSampler(ground);
  const rocks = lineSampler(ground);
  const waves = lineSampler(ground);
  const posts = lineSampler(grain);
  const boards = lineSampler(grain);
  return (seconds, width, height) => {
    const horizon = round(height * 0.45);
    const deck = round(height * 0.62);
    const shift = seconds * pixelsPerSecond;
    const crest = crestLine(ground, width, shift);
    return (px, y, out) => {
      const x = px + shift;
      if (y < horizon) {
        const fall = y / horizon;
        set(out, SKY_TOP, (SKY_LOW.y - SKY_TOP.y) * fall + 9 * clouds(x * 0.4, y + 90));
        const covered = edge(y - horizon + (crest[px] as number));
        if (covered > 0) blend(out, RIDGE, +18 * rocks(x * 1.5, y * 1.5), covered);
      } else {
        set(out, WATER, 15 * waves(x * 1.1 + seconds * 5, y * 2.4 + seconds * 8));
      }
      const post = abs((((x % 118) + 118) % 118) - 59);
      const standing = y > horizon - 34 ? edge(9 - post) : 0;
      if (standing > 0) blend(out, WOOD, +24 * posts(x * 2, y * 0.5) - 2 * post, standing);
      const planks = min(edge(y - deck), edge(deck + 40 - y));
      if (planks > 0) {
        const gap = ((x % 37) + 37) % 37 < 2 ? -40 : 0;
        blend(out, WOOD, +20 + gap + 22 * boards(x * 0.7, y * 3), planks);
      }
    };
  };
}

/** A ridge at dawn: the light rises while the camera drifts a fraction of a pixel a picture. */
export function ridge(seed: number, pixelsPerSecond: number): Scene {
  const ground = texture(seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.66 });
  const clouds = lineSampler(ground);
  const rocks = lineSampler(ground);
  return (seconds, width, height) => {
    const light = 14 * sin(seconds * 0.25);
    const shift = seconds * pixelsPerSecond;
    const tops = [0, 1, 2].map((layer) =>
      Float64Array.from({ length: width }, (_, px) => {
        const reach = 60 - layer * 8;
        return height * (0.42 + layer * 0.17) - reach * sample(ground, (px + shift) * (0.3 + layer * 0.12), 40 + layer * 130);
      }),
    );
    return (px, y, out) => {
      const x = px + shift;
      const fall = y / height;
      out[0] = 78 + 70 * fall + light + 9 * clouds(x * 0.3 + seconds * 2, y * 0.7);
      out[1] = 124 - 8 * fall;
      out[2] = 130 + 12 * fall;
      for (let layer = 0; layer < 3; layer++) {
        const covered = edge(y - ((tops[layer] as Float64Array)[px] as number));
        if (covered > 0) {
          const rock = (20 - layer * 2) * rocks(x * 1.6 + layer * 77, y * 1.6);
          blend(out, RIDGE, 10 - layer * 30 + light * 0.6 + rock, covered);
        }
      }
    };
  };
}

/** A warden before a hut: breathing, nodding, a mouth that follows the voice, and a board that claps shut. */
export function interview(seed: number, voice: (seconds: number) => number, clapSeconds: number): Scene {
  const wall = texture(seed, { size: 512, coarsest: 16, octaves: 6, roughness: 0.6 });
  const cloth = texture(seed + 1, { size: 512, coarsest: 64, octaves: 4, roughness: 0.7 });
  const SKIN = colour(186, 150, 128);
  const COAT = colour(52, 74, 66);
  const BOARD = colour(230, 228, 220);
  const boards = lineSampler(wall);
  const weave = lineSampler(cloth);
  const skin = lineSampler(cloth);
  return (seconds, width, height) => {
    const cx = width * 0.56 + 5 * sin(seconds * 0.9) + 2 * sin(seconds * 2.3);
    const cy = height * 0.4 + 3 * sin(seconds * 1.3) + 1.5 * sin(seconds * 3.7);
    const breath = 2.2 * sin(seconds * 1.6);
    const mouth = 2 + 13 * voice(seconds);
    const blink = seconds % 3.1 < 0.12 ? 0.15 : 1;
    const open = seconds < clapSeconds ? 34 * min(1, (clapSeconds - seconds) * 5) : 0;
    const board = seconds < clapSeconds + 0.8;
    return (x, y, out) => {
      set(out, WOOD, -16 + 20 * boards(x * 0.5, y * 2.2) - (y % 54 < 2 ? 22 : 0));
      const shoulder = height * 0.72 - breath + ((x - cx) / 190) ** 2 * 90;
      const coat = edge(y - shoulder);
      if (coat > 0) blend(out, COAT, +17 * weave(x - cx, y - breath), coat);
      const dx = (x - cx) / 74;
      const dy = (y - cy) / 98;
      const face = edge((1 - sqrt(dx * dx + dy * dy)) * 74);
      if (face > 0) {
        blend(out, SKIN, +9 * skin((x - cx) * 0.8, (y - cy) * 0.8) - 26 * dx, face);
        const eye = min(length(x - cx - 26, (y - cy + 18) / blink), length(x - cx + 26, (y - cy + 18) / blink));
        out[0] = (out[0] as number) - 70 * edge(7 - eye) - 60 * edge((1 - length((x - cx) / 24, (y - cy - 46) / mouth)) * mouth);
      }
      if (board && x > 60 && x < 250) {
        const hinge = height * 0.55 - (open * (250 - x)) / 190;
        if (y > height * 0.57 && y < height * 0.82) set(out, BOARD, 8 * sample(wall, x, y));
        if (y > hinge - 14 && y < hinge) set(out, BOARD, (x + y) % 44 < 22 ? -150 : 0);
      }
    };
  };
}

/** Icicles under an eave before a dim bank: light runs along them, and drops let go, each at its own beat. */
export function icicles(seed: number): Scene {
  const bank = texture(seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.62 });
  const glass = texture(seed + 1, { size: 512, coarsest: 32, octaves: 5, roughness: 0.7 });
  const next = random(seed + 2);
  const rows = Array.from({ length: 11 }, (_, i) => ({
    at: (i + 0.2 + 0.6 * next()) / 11,
    long: 0.22 + 0.38 * next(),
    wide: 7 + 9 * next(),
    beat: 0.9 + 1.3 * next(),
    phase: next(),
  }));
  const DARK = colour(46, 58, 62);
  const snow = lineSampler(bank);
  const runs = lineSampler(glass);
  const grains = lineSampler(glass);
  return (seconds, width, height) => {
    const eave = height * 0.09;
    const drops = rows.map(({ at, long, beat, phase }) => {
      const since = ((seconds / beat + phase) % 1) * beat;
      // It swells for a third of its beat, then falls freely.
      const fallen = max(0, since - beat / 3);
      return { x: at * width, y: eave + long * height + 3 + 0.5 * 900 * fallen * fallen, r: min(3.6, 1.2 + since * 6) };
    });
    return (x, y, out) => {
      set(out, DARK, 26 * snow(x * 0.8, y * 0.8) + (20 * y) / height);
      for (const { at, long, wide } of rows) {
        // Past its widest place and its sway nothing of it can be: most places are done with this.
        if (abs(x - at * width) > wide / 2 + 3) continue;
        const down = (y - eave) / (long * height);
        if (down < 0 || down > 1) continue;
        const half = (wide / 2) * (1 - down) ** 0.8 + 0.8;
        const off = x - at * width - 1.5 * sin(down * 7 + at * 20);
        const covered = edge(half - abs(off));
        if (covered <= 0) continue;
        const shine = 26 * runs(x * 1.4, y * 0.35 - seconds * 22) - (30 * abs(off)) / half;
        blend(out, ICE, shine - 40 * down, covered * 0.86);
      }
      for (const { x: dx, y: dy, r } of drops) {
        if (abs(x - dx) > r + 1 || abs(y - dy) * 0.8 > r + 1) continue;
        const covered = edge(r - length(x - dx, (y - dy) * 0.8));
        if (covered > 0) blend(out, ICE, 12 - 6 * (y - dy), covered * 0.9);
      }
      if (y < eave) set(out, WOOD, -20 + 22 * grains(x * 0.6, y * 3) - (eave - y < 3 ? 26 : 0));
    };
  };
}

/** A hut's wall before which nothing moves but a lantern on its hook: a small part of the frame, all the rest quite still. */
export function lantern(seed: number): Scene {
  const wall = texture(seed, { size: 512, coarsest: 16, octaves: 6, roughness: 0.6 });
  const glass = texture(seed + 1, { size: 512, coarsest: 64, octaves: 4, roughness: 0.7 });
  const IRON = colour(40, 44, 46);
  const LIGHT = colour(226, 190, 120);
  const boards = lineSampler(wall);
  return (seconds, width, height) => {
    const swing = 0.35 * sin(seconds * 2.6) * (1 + 0.2 * sin(seconds * 0.7));
    const hookX = width * 0.71;
    const hookY = height * 0.16;
    const long = height * 0.22;
    const lampX = hookX + long * sin(swing);
    const lampY = hookY + long * sqrt(max(0, 1 - sin(swing) ** 2));
    const half = height * 0.055;
    return (x, y, out) => {
      set(out, WOOD, -8 + 22 * boards(x * 0.5, y * 2.2) - (x % 61 < 2 ? 24 : 0));
      const along = (y - hookY) / (lampY - hookY);
      if (along > 0 && along < 1 && abs(x - (hookX + along * (lampX - hookX))) < 1) set(out, IRON, 0);
      const inside = edge(half - max(abs(x - lampX), abs(y - lampY) * 0.7));
      if (inside > 0)
        blend(out, LIGHT, 16 * sample(glass, (x - lampX) * 2 + 90, (y - lampY) * 2 + 90) - 3 * abs(x - lampX), inside);
    };
  };
}

/**
 * A skiff among floes, a lamp on its mast that is lit for a moment at each strike.
 * @param strikes in seconds, as the camera tells them
 * @param side 1 or -1: from which shore
 */
export function skiff(seed: number, strikes: readonly number[], side: 1 | -1): Scene {
  const around = lake({ seed, speed: 0.7, floes: 9 });
  return (seconds, width, height) => {
    const behind = around(seconds, width, height);
    const x0 = width * (0.5 - side * 0.16) + side * seconds * width * 0.004;
    const y0 = height * 0.66 + 2 * sin(seconds * 1.3);
    const lit = strikes.some((s) => seconds >= s && seconds < s + LAMP_SECONDS);
    const half = width * 0.09;
    const deep = height * 0.05;
    const mast = height * 0.2;
    return (x, y, out) => {
      behind(x, y, out);
      const dx = x - x0;
      const dy = y - y0;
      // Most places are far from it.
      if (abs(dx) > half + deep || dy > deep + 1 || dy < -mast - height * 0.06) return;
      const covered = min(1 - edge(abs(dx) - half * (1 - dy / (deep * 2.4))), min(1 - edge(dy - deep), 1 - edge(-dy)));
      if (covered > 0) blend(out, WOOD, -20, covered);
      const pole = min(1 - edge(abs(dx) - 1.2), min(1 - edge(dy), 1 - edge(-mast - dy)));
      if (pole > 0) blend(out, WOOD, -30, pole);
      const lamp = 1 - edge(length(dx, dy + mast) - height * (lit ? 0.05 : 0.018));
      if (lamp > 0) blend(out, lit ? ICE : WOOD, 20, lamp);
    };
  };
}

/** How long the lamp is lit at a strike: two pictures at 25. */
const LAMP_SECONDS = 0.08;
