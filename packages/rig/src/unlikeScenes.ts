import { type Colour, colour, cover, edge, set } from './canvas.js';
import { normal, random } from './random.js';
import { jetty, lake, type Scene } from './scenes.js';
import { lineSampler, sample, texture } from './texture.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, atan2, floor, hypot, log, max, min, round, sin, sqrt } = Math;

/**
 * Scenes unlike those of oddScenes.ts, made after checks had been tuned on these: graphics, theatre, weather, drawings, worn film.
 * All move as seconds go on; widths and heights are pixels.
 */

const BLACK = colour(8, 8, 10);
const CHALK = colour(236, 236, 230);

/** Covers what is there by a share of a colour. */

const wrap = (value: number, period: number): number => ((value % period) + period) % period;

/** Light names on black that rise, in two centred columns of lines with gaps between groups. */
export function credits(seed: number, pixelsPerSecond = 37): Scene {
  const next = random(seed);
  const lines = Array.from({ length: 40 }, (_, i) => ({ long: i % 5 === 4 ? 0 : 0.25 + 0.6 * next(), seed: next() * 50 }));
  return (seconds, width, height) => {
    const step = height / 14;
    return (x, y, out) => {
      set(out, BLACK, 0);
      const at = (y + seconds * pixelsPerSecond) / step;
      const line = lines[wrap(floor(at), lines.length)] as (typeof lines)[number];
      const half = line.long * width * 0.32;
      if (abs(x - width / 2) > half) return;
      const letter = floor((x - width / 2 + half) / (step * 0.5));
      const inLetter = x - width / 2 + half - letter * step * 0.5;
      const form = wrap(line.seed + letter * 0.618, 1);
      const down = (at - floor(at)) * step;
      const stem = step * (0.08 + 0.25 * form);
      const bar = step * (0.2 + 0.4 * wrap(form * 7, 1));
      const on = max(edge(step * 0.05 - abs(inLetter - stem)), edge(step * 0.04 - abs(down - bar)) * edge(step * 0.4 - inLetter));
      if (down > step * 0.12 && down < step * 0.68 && form > 0.15) cover(out, CHALK, on);
    };
  };
}

/** A road by night: lamps and lights of others come nearer on a ground that is nearly black. */
export function night(seed: number): Scene {
  const next = random(seed);
  const ground = texture(seed, { coarsest: 16 });
  const lights = Array.from({ length: 16 }, () => ({
    side: (next() - 0.5) * 3,
    up: 0.1 - 0.9 * next(),
    far: next(),
    warm: next() > 0.4,
  }));
  return (seconds, width, height) => {
    const placed = lights.map((l) => {
      const depth = 0.08 + wrap(l.far - seconds * 0.22, 1);
      return {
        x: width / 2 + (l.side * width * 0.12) / depth,
        y: height * 0.45 + (l.up * height * 0.06) / depth,
        r: (0.004 * width) / depth,
        colour: l.warm ? colour(255, 214, 150) : colour(190, 210, 255),
      };
    });
    return (x, y, out) => {
      const below = y - height * 0.45;
      const depth = below > 1 ? height / below : 0;
      const road = below > 1 ? 7 * sample(ground, ((x - width / 2) * depth) / 3, depth * 40 - seconds * 190) : 0;
      set(out, BLACK, 8 + max(0, road) * min(1, below / 60));
      for (let i = 0; i < placed.length; i++) {
        const p = placed[i] as (typeof placed)[number];
        if (abs(x - p.x) > 5 * p.r + 2 || abs(y - p.y) > 5 * p.r + 2) continue;
        const d = hypot(x - p.x, y - p.y) / p.r;
        cover(out, p.colour, d < 1 ? 0.95 : max(0, 0.5 / (d * d) - 0.02));
      }
    };
  };
}

/** A stage before heads: four beams that swing, and change their light all at once three times a second. */
export function stage(seed: number): Scene {
  const next = random(seed);
  const heads = Array.from({ length: 22 }, () => ({
    x: next(),
    y: 0.78 + 0.16 * next(),
    r: 0.03 + 0.02 * next(),
    p: next() * 6.28,
  }));
  const back = texture(seed + 3, { coarsest: 12 });
  const beams = [0.15, 0.4, 0.62, 0.86].map((x) => ({ x, p: next() * 6.28 }));
  return (seconds, width, height) => {
    const beat = random(seed * 31 + floor(seconds / 0.32));
    const light = beams.map(() => (beat() > 0.45 ? 70 + 60 * beat() : 6));
    const sways = beams.map((b) => 0.5 * sin(seconds * 0.9 + b.p));
    const bob = heads.map((h) => h.y * height + 4 * sin(seconds * 12.3 + h.p));
    return (x, y, out) => {
      let glow = 30 + 9 * sample(back, x, y);
      beams.forEach((b, i) => {
        const axis = b.x * width + y * (sways[i] as number);
        const wide = 10 + y * 0.22;
        glow += (light[i] as number) * max(0, 1 - ((x - axis) / wide) ** 2) * (1 - (0.5 * y) / height);
      });
      out[0] = min(230, glow);
      out[1] = 134;
      out[2] = 136;
      if (y < height * 0.7) return;
      heads.forEach((h, i) => {
        const r = h.r * width;
        cover(out, BLACK, edge(r - hypot(x - h.x * width, (y - (bob[i] as number)) * 0.8)));
      });
    };
  };
}

/** Out of a train: poles, hedge, field and hills, each at a pace of its own. */
export function window(seed: number): Scene {
  const layers = [0, 1, 2].map((i) => texture(seed + i, { coarsest: 8 << i, roughness: 0.6 }));
  const [hills, field, hedge] = layers.map((t) => lineSampler(t)) as [Line, Line, Line];
  const crest = texture(seed + 9, { coarsest: 6 });
  return (seconds, width, height) => (x, y, out) => {
    const far = x + seconds * 15;
    const rise = height * (0.34 + 0.08 * sample(crest, far * 0.4, 5));
    if (y < rise) set(out, colour(178, 190, 200), -0.1 * y);
    else if (y < height * 0.5) set(out, colour(96, 116, 118), 14 * hills(far, y));
    else if (y < height * 0.8) set(out, colour(120, 128, 84), 26 * field(x + seconds * (40 + (y / height - 0.5) * 400), y * 3));
    else set(out, colour(58, 74, 46), 34 * hedge(x + seconds * 230, y * 1.5));
    const pole = wrap(x + seconds * 610, width * 1.7);
    cover(out, colour(50, 46, 44), edge(5 - abs(pole - 40)));
  };
}

type Line = (x: number, y: number) => number;

/** A drawn walker in flat colours with an outline, before hills of paper that pass by. */
export function drawn(seed: number): Scene {
  const next = random(seed);
  const hills = Array.from({ length: 5 }, (_, i) => ({
    tall: 0.2 + 0.1 * next(),
    long: 90 + 160 * next(),
    pace: 12 + 22 * i,
    shade: 205 - 24 * i,
  }));
  return (seconds, width, height) => {
    const [cx, ground] = [width * 0.5, height * 0.86];
    const swing = sin(seconds * 7.4);
    const hop = abs(sin(seconds * 7.4)) * height * 0.03;
    return (x, y, out) => {
      set(out, colour(238, 226, 200), 0);
      hills.forEach((h, i) => {
        const top = height * (0.35 + 0.11 * i) - h.tall * height * (0.5 + 0.5 * sin((x + seconds * h.pace) / h.long + i * 2));
        cover(out, colour(h.shade, h.shade - 12, h.shade - 40), edge(y - top));
      });
      cover(out, colour(120, 100, 80), edge(y - ground));
      const part = (inside: number, c: Colour): void => {
        cover(out, BLACK, edge(inside + 2.5));
        cover(out, c, edge(inside));
      };
      for (const side of [-1, 1]) {
        const foot = cx + side * swing * width * 0.06;
        const along = min(1, max(0, (y - (ground - height * 0.24)) / (height * 0.24)));
        if (y > ground - height * 0.25 && y < ground) part(7 - abs(x - (cx + (foot - cx) * along)), colour(60, 90, 150));
      }
      part(height * 0.13 - hypot((x - cx) * 1.3, y - (ground - height * 0.34 - hop)), colour(200, 60, 50));
      part(height * 0.075 - hypot(x - cx - 2 * swing, y - (ground - height * 0.54 - hop)), colour(240, 200, 160));
    };
  };
}

/** A spiral of smooth shades that turns and breathes: no corner in it anywhere. */
export function spiral(seed: number): Scene {
  const arms = 3 + floor(random(seed)() * 4);
  return (seconds, width, height) => (x, y, out) => {
    const [dx, dy] = [x - width / 2, y - height / 2];
    const r = sqrt(dx * dx + dy * dy) + 4;
    const turn = arms * atan2(dy, dx) + 9 * log(r) - 2.6 * seconds;
    set(out, colour(110, 110, 120), 74 * sin(turn) * min(1, r / 30));
  };
}

/** Surf from a swaying hand: foam that boils while it runs ashore. */
export function surf(seed: number): Scene {
  const foam = texture(seed, { coarsest: 8, octaves: 7, roughness: 0.66 });
  const warp = texture(seed + 5, { coarsest: 8, octaves: 3 });
  return (seconds, _width, height) => {
    const [swayX, swayY] = [5 * sin(seconds * 2.1) + 2 * sin(seconds * 5.3), 3 * sin(seconds * 2.9 + 1)];
    const run = 30 * sin(seconds * 0.8);
    return (px, py, out) => {
      const [x, y] = [px + swayX, py + swayY];
      const wx = 26 * sample(warp, x * 0.7 + seconds * 11, y * 0.7 - seconds * 17);
      const wy = 26 * sample(warp, x * 0.7 - seconds * 13, y * 0.7 + 99 + seconds * 9);
      const white = sample(foam, x + wx, y * 1.4 + wy + run) + (y / height - 0.45) + 0.3 * sin((y + run + x * 0.1) / 24);
      set(out, colour(52, 88, 98), 20 * sample(warp, x * 2, y * 3 + seconds * 20) + 120 * min(1, max(0, white * 1.6)));
    };
  };
}

/** Another scene from worn film: it jumps in the gate now and then, breathes in light, has scratches that wander, blotches and splinters. */
export function worn(seed: number, scene: Scene, perSecond: number): Scene {
  return (seconds, width, height) => {
    const picture = round(seconds * perSecond);
    const next = random(seed * 104_729 + picture);
    const jump = next() > 0.93 ? 2.5 * normal(next) : 0;
    const [dx, dy] = [0.4 * sin(picture * 0.7) + 0.3 * normal(next), 0.8 * sin(picture * 0.31) + 0.3 * normal(next) + jump];
    const light = 1 + 0.05 * sin(picture * 1.9) + 0.015 * normal(next);
    const scratches = [0.23, 0.58, 0.81].map((x, i) => x * width + 3 * sin(picture * 0.13 + i) + 0.5 * normal(next));
    const shows = scratches.map(() => next() > 0.3);
    const blotches = Array.from({ length: 3 }, () => ({ x: next() * width, y: next() * height, r: 3 + 9 * next() * next() }));
    const behind = scene(seconds, width, height);
    return (x, y, out) => {
      behind(x + dx, y + dy, out);
      out[0] = 16 + ((out[0] as number) - 16) * light;
      scratches.forEach((s, i) => {
        if (shows[i] && abs(x - s) < 0.8) out[0] = min(235, (out[0] as number) + 50);
      });
      for (const b of blotches) if (hypot(x - b.x, (y - b.y) * 0.7) < b.r) out[0] = (out[0] as number) * 0.5;
    };
  };
}

/** Flakes that fall before dark firs. */
export function snowfall(seed: number): Scene {
  const next = random(seed);
  const firs = lineSampler(texture(seed, { coarsest: 16, octaves: 6, roughness: 0.7 }));
  const flakes = Array.from({ length: 170 }, () => {
    const near = next();
    return { x: next(), y: next(), r: 0.8 + 2.2 * near * near, fall: 45 + 130 * near, p: next() * 6.28 };
  });
  return (seconds, width, height) => {
    const rows = Array.from({ length: Math.ceil(height / 8) + 2 }, (): { x: number; y: number; r: number }[] => []);
    for (const f of flakes) {
      const [x, y] = [
        wrap(f.x * width + 9 * sin(seconds * 1.3 + f.p) + 14 * seconds, width),
        wrap(f.y * height + f.fall * seconds, height),
      ];
      for (let row = floor((y - 4) / 8); row <= floor((y + 4) / 8); row++) rows[max(0, row)]?.push({ x, y, r: f.r });
    }
    return (x, y, out) => {
      set(out, colour(58, 66, 70), 30 * firs(x, y));
      for (const f of rows[y >> 3] as { x: number; y: number; r: number }[])
        if (abs(x - f.x) < 4) cover(out, CHALK, edge(f.r - hypot(x - f.x, y - f.y)));
    };
  };
}

/** Two cameras beside each other, a line between. */
export function split(seed: number): Scene {
  const [left, right] = [lake({ seed, speed: 1, floes: 14 }), jetty(seed + 2, 90)];
  return (seconds, width, height) => {
    const [a, b] = [left(seconds, width, height), right(seconds, width, height)];
    const middle = width >> 1;
    return (x, y, out) => {
      if (abs(x - middle) < 2) set(out, CHALK, 0);
      else if (x < middle) a(x, y, out);
      else b(x, y, out);
    };
  };
}

/** A still camera whose focus goes to and fro between a wall and what hangs before it. */
export function focus(seed: number): Scene {
  const [fine, blurred] = [7, 3].map((octaves) => lineSampler(texture(seed, { coarsest: 8, octaves, roughness: 0.62 }))) as [
    Line,
    Line,
  ];
  return (seconds, width, height) => {
    const sharp = 0.5 + 0.5 * sin(seconds * 2.4);
    return (x, y, out) => {
      set(out, colour(128, 118, 104), 42 * (sharp * fine(x, y) + (1 - sharp) * blurred(x, y)));
      const near = height * 0.16 - hypot(x - width * 0.3 - 6 * sin(seconds * 1.7), y - height * 0.5);
      const wide = 1 + 9 * sharp;
      cover(out, colour(196, 150, 60), min(1, max(0, near / wide + 0.5)));
    };
  };
}
