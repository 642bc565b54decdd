import { colour, type Shader } from './canvas.js';
import { normal, random } from './random.js';
import { lake, type Scene } from './scenes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, hypot, max, min, sin } = Math;

/** Scenes unlike those that checks were tuned on. */

const PAPER = colour(232, 228, 218);
const INK = colour(30, 34, 40);

/** Lines of writing that scroll upwards, so many pixels a second. */
export function scroll(seed: number, pixelsPerSecond: number): Scene {
  const next = random(seed);
  const letters = Array.from({ length: 64 * 48 }, () => next());
  return (seconds, width, height) => {
    const size = max(6, floor(height / 20));
    const from = seconds * pixelsPerSecond;
    return (x, y, out) => {
      const line = floor((y + from) / (size * 1.6));
      const within = (y + from) / (size * 1.6) - line;
      const column = floor(x / (size * 0.55));
      const letter = letters[
        ((((line * 48 + (column % 48)) % letters.length) + letters.length) % letters.length) as number
      ] as number;
      const inMargin = x < width * 0.12 || x > width * (0.7 + 0.2 * (letters[((line % 64) + 64) % 64] as number));
      // A stem and a bar for each letter, at heights of its own.
      const stem = abs(x / (size * 0.55) - column - 0.3 - 0.3 * letter) < 0.14;
      const bar = abs(within - 0.15 - 0.4 * ((letter * 7) % 1)) < 0.06;
      const inked = !inMargin && letter > 0.18 && within < 0.66 && (stem || bar);
      const shade = inked ? INK : PAPER;
      out[0] = shade.y;
      out[1] = shade.u;
      out[2] = shade.v;
    };
  };
}

/** A square seen from above, on which many small figures go their own ways. */
export function crowd(seed: number, people = 90): Scene {
  const next = random(seed);
  const figures = Array.from({ length: people }, () => ({
    x: next() * 1.2,
    y: next() * 1.2,
    u: 0.05 * normal(next),
    v: 0.05 * normal(next),
    size: 0.008 + 0.01 * next(),
    luma: 40 + 170 * next(),
  }));
  const ground = lake({ seed: seed + 1, speed: 0, floes: 6 });
  return (seconds, width, height): Shader => {
    const floorShader = ground(0, width, height);
    const places = figures.map((f) => ({
      x: (((((f.x + f.u * seconds) % 1.2) + 1.2) % 1.2) - 0.1) * width,
      y: (((((f.y + f.v * seconds) % 1.2) + 1.2) % 1.2) - 0.1) * height,
      r: f.size * width,
      luma: f.luma,
    }));
    return (x, y, out) => {
      floorShader(x, y, out);
      for (let i = 0; i < places.length; i++) {
        const p = places[i] as (typeof places)[number];
        // Most are elsewhere.
        if (abs(x - p.x) > p.r + 1 || abs(y - p.y) > p.r / 0.7 + 1) continue;
        const covered = min(1, max(0, p.r - hypot(x - p.x, (y - p.y) * 0.7) + 0.5));
        if (covered > 0) out[0] = (out[0] as number) * (1 - covered) + p.luma * covered;
      }
    };
  };
}

/** Another scene as an old film shows it: weaving in the gate, flickering a little, dusty. */
export function archive(seed: number, scene: Scene, perSecond: number): Scene {
  return (seconds, width, height) => {
    const picture = Math.round(seconds * perSecond);
    const next = random(seed * 7919 + picture);
    const [dx, dy, light] = [0.7 * normal(next), 0.5 * normal(next), 1 + 0.02 * normal(next)];
    const dust = Array.from({ length: 6 }, () => ({
      x: next() * width,
      y: next() * height,
      r: 1 + 3 * next(),
      luma: next() > 0.5 ? 225 : 30,
    }));
    const behind = scene(seconds, width, height);
    return (x, y, out) => {
      behind(x + dx, y + dy, out);
      out[0] = 16 + ((out[0] as number) - 16) * light;
      for (const d of dust) if (hypot(x - d.x, y - d.y) < d.r) out[0] = d.luma;
    };
  };
}

/** Water that glitters: waves that run through each other, none of them a thing that moves on. */
export function water(seed: number): Scene {
  const next = random(seed);
  const waves = Array.from({ length: 14 }, () => ({
    a: (next() - 0.5) * 60,
    b: 10 + next() * 70,
    speed: 2 + 5 * next(),
    phase: 6.28 * next(),
    weight: 4 + 9 * next(),
  }));
  return (seconds, width, height) => (x, y, out) => {
    let sum = 0;
    for (const w of waves) sum += w.weight * sin((w.a * x) / width + (w.b * y) / height + w.speed * seconds + w.phase);
    out[0] = min(230, max(20, 110 + 0.7 * sum + (sum > 45 ? 60 : 0)));
    out[1] = 132;
    out[2] = 122;
  };
}
