import { colour, cover, edge, set } from './canvas.js';
import { normal, random } from './random.js';
import type { Scene } from './scenes.js';
import { lineSampler, sample, texture } from './texture.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, cos, exp, floor, hypot, max, min, sin, sqrt } = Math;

/**
 * Scenes made after checks had been tuned on those of unlikeScenes.ts: a fire, a meadow, a flight, a studio, birds, rain on a windscreen, lit
 * signs, a walk past columns, the sea's ground, a kitchen. All move as seconds go on; widths and heights are pixels.
 */

const BLACK = colour(10, 10, 12);
const CHALK = colour(234, 232, 226);

const wrap = (value: number, period: number): number => ((value % period) + period) % period;

/** Flames that lick upwards from the lower edge, before a dark wall, with sparks. */
export function fire(seed: number): Scene {
  const next = random(seed);
  const tongues = texture(seed, { coarsest: 8, octaves: 5, roughness: 0.6 });
  const wall = lineSampler(texture(seed + 4, { coarsest: 16 }));
  const sparks = Array.from({ length: 24 }, () => ({ x: next(), p: next(), up: 0.35 + 0.5 * next(), sway: next() * 6.28 }));
  return (seconds, width, height) => {
    const flicker = 1 + 0.08 * sin(seconds * 31) + 0.05 * sin(seconds * 47 + 1);
    const lit = sparks.map((s) => {
      const age = wrap(s.p + seconds * s.up, 1);
      return { x: (s.x + 0.03 * sin(age * 9 + s.sway)) * width, y: (1 - age) * height, light: 90 * (1 - age) };
    });
    return (x, y, out) => {
      const up = 1 - y / height;
      const bend = 14 * sample(tongues, x * 0.5 + 200, y * 0.6 + seconds * 140);
      const heat =
        1.15 - 1.9 * up + 0.8 * sample(tongues, (x + bend) * 1.3, y * 0.7 + seconds * 260) - 1.2 * (x / width - 0.5) ** 2;
      const hot = max(0, min(1, heat));
      out[0] = min(235, 26 + 8 * wall(x, y) + (30 * (1 - up) + 180 * hot) * flicker);
      out[1] = 128 - 40 * hot;
      out[2] = 128 + 44 * min(1, 2 * hot);
      for (const s of lit) if (abs(x - s.x) < 1.6 && abs(y - s.y) < 1.6) out[0] = min(235, (out[0] as number) + s.light);
    };
  };
}

/** Grass that gusts run over, seen by a still camera. */
export function meadow(seed: number): Scene {
  const blades = texture(seed, { coarsest: 32, octaves: 5, roughness: 0.75 });
  const gusts = texture(seed + 6, { coarsest: 4, octaves: 3 });
  return (seconds, width, height) => (x, y, out) => {
    const near = 0.3 + (0.7 * y) / height;
    const gust = sample(gusts, x * 0.5 - seconds * 70, y * 0.8 - seconds * 12);
    const sway = near * (7 * gust + 2.5 * gust * sin(seconds * 6.1 + x * 0.05));
    const blade = sample(blades, (x + sway) * 1.4, (y * 0.5 + 0.2 * abs(sway)) / near + 60);
    set(out, colour(92, 112, 54), 46 * near * blade + 16 * gust);
    if (y < height * 0.12) set(out, colour(190, 202, 214), 4 * sin((x - width) * 0.01));
  };
}

/** Fields and lanes from the air: forward, a little turned and lower all the time. */
export function flight(seed: number): Scene {
  const ground = texture(seed, { coarsest: 8, octaves: 7, roughness: 0.58 });
  return (seconds, width, height) => {
    const [turn, high] = [0.25 * sin(seconds * 0.5) + seconds * 0.06, 1 - 0.03 * seconds];
    const [c, s] = [cos(turn), sin(turn)];
    const [bobX, bobY] = [0.9 * sin(seconds * 9.1), 0.7 * sin(seconds * 11.7)];
    return (px, py, out) => {
      const [x, y] = [px - width / 2 + bobX, py + bobY];
      const depth = (height * 150 * high) / (y + height * 0.35);
      const [across, along] = [(x * depth) / 210, depth + seconds * 55];
      const [u, v] = [across * c - along * s, across * s + along * c];
      const field = sample(ground, floor(u / 42) * 97, floor(v / 34) * 61);
      const lane = min(abs(wrap(u, 42) - 21), abs(wrap(v, 34) - 17));
      set(out, colour(104 + 50 * field, 118 + 24 * field, 70), 22 * sample(ground, u * 6, v * 6));
      cover(out, colour(176, 168, 150), edge(lane * 1.6 - 30));
    };
  };
}

/** A reader before a wall, a headline, and a line of words that runs along the lower edge. */
export function studio(seed: number): Scene {
  const next = random(seed);
  const wall = lineSampler(texture(seed, { coarsest: 8 }));
  const words = Array.from({ length: 400 }, () => next());
  return (seconds, width, height) => {
    const [nod, blink] = [2.2 * sin(seconds * 1.9) + 0.8 * sin(seconds * 5.2), wrap(seconds, 3.1) < 0.12];
    const mouth = max(0, sin(seconds * 23) * sin(seconds * 3.7 + 1)) * height * 0.022;
    const [cx, cy] = [width * 0.42 + nod, height * 0.42 + 0.5 * nod];
    return (x, y, out) => {
      if (y > height * 0.9) {
        set(out, colour(20, 40, 90), 0);
        const at = (x + seconds * 118) / 9;
        const letter = words[wrap(floor(at), words.length)] as number;
        const inside =
          abs(at - floor(at) - 0.2 - 0.5 * letter) < 0.16 || abs(y - height * (0.92 + 0.05 * wrap(letter * 5, 1))) < 1.2;
        if (letter > 0.16 && y > height * 0.915 && y < height * 0.985 && inside) set(out, CHALK, 0);
        return;
      }
      set(out, colour(70, 92, 130), 16 * wall(x, y));
      const face = edge(height * 0.17 - hypot((x - cx) * 1.25, y - cy));
      cover(out, colour(44, 48, 60), edge(height * 0.3 - hypot((x - cx) * 0.8, y - height * 0.92)));
      cover(out, colour(214, 170, 146), face);
      cover(out, colour(70, 46, 36), edge(height * 0.13 - hypot((x - cx) * 0.9, (y - cy + height * 0.13) * 1.6)));
      for (const side of [-1, 1]) {
        const eye = hypot(x - cx - side * height * 0.055, (y - cy + height * 0.01) * (blink ? 5 : 1.4));
        cover(out, BLACK, edge(height * 0.014 - eye));
      }
      cover(
        out,
        colour(120, 40, 44),
        edge(3 + mouth * 0.2 - hypot((x - cx) * 0.35, ((y - cy - height * 0.085) * 4) / (1 + mouth))),
      );
      if (abs(y - height * 0.8) < height * 0.05 && x < width * 0.7) {
        set(out, colour(180, 30, 40), 0);
        const letter = words[floor(x / 11)] as number;
        if (x > 16 && abs(y - height * 0.8) < height * 0.026 && abs(wrap(x, 11) - 3 - 4 * letter) < 1.6) set(out, CHALK, 0);
      }
    };
  };
}

/** A swarm of dark birds that turns on a pale sky. */
export function birds(seed: number): Scene {
  const next = random(seed);
  const swarm = Array.from({ length: 130 }, () => ({
    a: normal(next),
    b: normal(next),
    p: next() * 6.28,
    r: 1.4 + 1.6 * next(),
  }));
  const sky = lineSampler(texture(seed + 2, { coarsest: 4, octaves: 4 }));
  return (seconds, width, height) => {
    const [cx, cy] = [width * (0.5 + 0.25 * sin(seconds * 0.7)), height * (0.45 + 0.2 * sin(seconds * 1.1 + 1))];
    const rows = Array.from({ length: Math.ceil(height / 8) + 2 }, (): { x: number; y: number; r: number; flap: number }[] => []);
    for (const bird of swarm) {
      const turn = seconds * 0.9 + bird.p * 0.1;
      const x = cx + width * 0.17 * (bird.a * cos(turn) - bird.b * sin(turn)) + 8 * sin(seconds * 3 + bird.p);
      const y = cy + height * 0.15 * (bird.a * sin(turn) + bird.b * cos(turn)) + 6 * sin(seconds * 2.3 + 2 * bird.p);
      const one = { x, y, r: bird.r, flap: sin(seconds * 22 + bird.p) };
      for (let row = floor((y - 8) / 8); row <= floor((y + 8) / 8); row++) rows[row]?.push(one);
    }
    return (x, y, out) => {
      set(out, colour(196, 204, 216), 9 * sky(x + seconds * 4, y) - (y * 24) / height);
      for (const one of rows[y >> 3] as { x: number; y: number; r: number; flap: number }[]) {
        const [dx, dy] = [x - one.x, y - one.y];
        if (abs(dx) > 8) continue;
        cover(out, BLACK, edge(one.r - hypot(dx * 0.6, (dy - one.flap * abs(dx) * 0.5) * 1.3)));
      }
    };
  };
}

/** Out of a car in the rain: lamps ahead, drops that gather on the pane, a wiper that takes them away. */
export function wiper(seed: number): Scene {
  const next = random(seed);
  const road = lineSampler(texture(seed, { coarsest: 16 }));
  const drops = Array.from({ length: 260 }, () => ({ x: next(), y: next(), r: 1.2 + 2.2 * next(), born: next() }));
  const lamps = Array.from({ length: 6 }, () => ({ side: next() > 0.5 ? 1 : -1, far: next() }));
  const PERIOD = 1.3;
  return (seconds, width, height) => {
    const phase = wrap(seconds / PERIOD, 1);
    const angle = phase < 0.5 ? 0.2 + phase * 2 * 2.6 : 0.2 + (1 - phase) * 2 * 2.6;
    const pivot = { x: width * 0.45, y: height * 1.05 };
    const [ax, ay] = [cos(angle), -sin(angle)];
    const rows = Array.from({ length: Math.ceil(height / 8) + 2 }, (): { x: number; y: number; r: number }[] => []);
    for (const drop of drops) {
      const [x, y] = [drop.x * width, drop.y * height];
      const bearing = Math.atan2(pivot.y - y, x - pivot.x);
      const share = max(0, min(1, (bearing - 0.2) / 2.6));
      // Since it was wiped last, on the way there or on the way back.
      const since =
        phase < 0.5
          ? phase > share / 2
            ? phase - share / 2
            : phase + share / 2
          : phase > 1 - share / 2
            ? phase - 1 + share / 2
            : phase - share / 2;
      if (since < drop.born * 0.7) continue;
      for (let row = floor((y - 5) / 8); row <= floor((y + 5) / 8); row++) rows[row]?.push({ x, y, r: drop.r });
    }
    const lit = lamps.map((l) => {
      const depth = 0.1 + wrap(l.far - seconds * 0.3, 1);
      return {
        x: width / 2 + (l.side * width * 0.07) / depth,
        y: height * 0.42 + (height * 0.02) / depth,
        r: (width * 0.004) / depth,
      };
    });
    return (x, y, out) => {
      const below = y - height * 0.42;
      set(out, colour(54, 60, 72), below > 0 ? 14 * road(x * 0.8 + 50, 4000 / (below + 12) + seconds * 90) : -8);
      for (const l of lit) {
        const d = hypot(x - l.x, y - l.y) / l.r;
        if (d < 6) cover(out, colour(255, 236, 190), d < 1 ? 0.95 : 0.6 / (d * d));
      }
      for (const drop of rows[y >> 3] as { x: number; y: number; r: number }[]) {
        const d = hypot(x - drop.x, y - drop.y);
        if (d < drop.r) out[0] = (out[0] as number) + (y < drop.y ? -18 : 34) * (1 - (0.5 * d) / drop.r);
      }
      const along = (x - pivot.x) * ax + (y - pivot.y) * ay;
      if (along > 0 && along < height * 1.1) cover(out, BLACK, edge(4 - abs((x - pivot.x) * ay - (y - pivot.y) * ax)));
    };
  };
}

/** A street of lit signs that go on and off, each in its time, while people pass by below. */
export function signs(seed: number): Scene {
  const next = random(seed);
  const bricks = lineSampler(texture(seed, { coarsest: 32, roughness: 0.5 }));
  const boards = Array.from({ length: 7 }, (_, i) => ({
    x: 0.04 + 0.135 * i,
    y: 0.08 + 0.3 * next(),
    w: 0.1,
    h: 0.1 + 0.16 * next(),
    period: 0.4 + 1.1 * next(),
    share: 0.35 + 0.4 * next(),
    c: colour(120 + 135 * next(), 90 + 160 * next(), 90 + 160 * next()),
  }));
  const people = Array.from({ length: 7 }, () => ({
    x: next(),
    pace: (next() > 0.5 ? 1 : -1) * (0.05 + 0.07 * next()),
    tall: 0.24 + 0.1 * next(),
  }));
  return (seconds, width, height) => {
    const on = boards.map((b) => wrap(seconds / b.period, 1) < b.share);
    const glow = on.filter(Boolean).length * 3;
    const walkers = people.map((p) => ({
      x: wrap(p.x + p.pace * seconds, 1.2) * width - 0.1 * width,
      tall: p.tall * height,
      bob: 2 * abs(sin(seconds * 6 + p.x * 9)),
    }));
    return (x, y, out) => {
      const joint = wrap(y, 12) < 1.3 || wrap(x + 14 * (floor(y / 12) % 2), 28) < 1.3 ? -12 : 0;
      set(out, colour(66, 54, 50), 12 * bricks(x, y) + joint + glow);
      boards.forEach((b, i) => {
        const [dx, dy] = [x / width - b.x, y / height - b.y];
        if (dx < 0 || dx > b.w || dy < 0 || dy > b.h) return;
        const letter = wrap(dx * 90, 3) < 1.6 && wrap(dy * 60, 5) < 3.6;
        set(out, on[i] && letter ? b.c : BLACK, on[i] && !letter ? 20 : 0);
      });
      for (const w of walkers) {
        const top = height - w.tall - w.bob;
        const body = min(9 + w.tall * 0.06 - abs(x - w.x), y - top - 14);
        cover(out, colour(30, 30, 36), edge(body));
        cover(out, colour(150, 120, 104), edge(7 - hypot(x - w.x, y - top - 8)));
      }
    };
  };
}

/** A walk past columns close by, a hall far behind them. */
export function columns(seed: number): Scene {
  const stone = texture(seed, { coarsest: 16, octaves: 6, roughness: 0.6 });
  const [near, far] = [lineSampler(stone), lineSampler(texture(seed + 1, { coarsest: 16, roughness: 0.65 }))];
  return (seconds, width, height) => {
    const step = 2.4 * abs(sin(seconds * 5.6));
    const walked = seconds * 150 + 4 * sin(seconds * 5.6);
    return (px, py, out) => {
      const y = py + step;
      const x = px + walked;
      set(out, colour(150, 138, 118), 38 * far(px + walked * 0.16, y));
      if (y > height * 0.82) set(out, colour(110, 104, 96), 20 * near(px + walked * (0.3 + (y / height - 0.8) * 2.6), y * 2));
      const inBay = wrap(x, width * 0.44);
      const round = (inBay - 34) / 34;
      if (abs(round) < 1) set(out, colour(186, 178, 160), 70 * (sqrt(1 - round * round) - 0.7) + 24 * near(x + 40 * round, y));
    };
  };
}

/** The sea's ground under light that waves throw on it, weed that sways, one fish. */
export function seabed(seed: number): Scene {
  const sand = lineSampler(texture(seed, { coarsest: 32, roughness: 0.7 }));
  const waves = texture(seed + 8, { coarsest: 8, octaves: 3 });
  return (seconds, width, height) => {
    const [driftX, driftY] = [6 * sin(seconds * 0.9), 3 * sin(seconds * 1.3 + 2)];
    const fish = { x: wrap(seconds * 0.16 + 0.2, 1.3) * width - 0.15 * width, y: height * (0.45 + 0.06 * sin(seconds * 2)) };
    return (px, py, out) => {
      const [x, y] = [px + driftX, py + driftY];
      const a = sample(waves, x * 0.9 + seconds * 26, y * 1.2 + seconds * 9);
      const b = sample(waves, x * 0.9 - seconds * 21 + 200, y * 1.2 - seconds * 13 + 80);
      const light = exp(-60 * (a - b) ** 2);
      set(out, colour(58, 128, 132), 18 * sand(x, y) + 52 * light * (0.4 + (0.6 * y) / height));
      for (let i = 0; i < 6; i++) {
        const root = width * (0.1 + 0.16 * i);
        const up = max(0, height - y);
        const stem = root + 0.0009 * up * up * sin(seconds * 1.7 + i) + 3 * sin(up * 0.06 + i);
        if (up < height * (0.3 + 0.06 * (i % 3))) cover(out, colour(30, 76, 48), edge(3.5 - abs(x - stem)));
      }
      const tail = 3 * sin(seconds * 14 + (fish.x - px) * 0.15);
      cover(out, colour(220, 130, 50), edge(9 - hypot((px - fish.x) * 0.4, py - fish.y - tail * 0.6)));
    };
  };
}

/** Hands that chop on a table under a fixed camera: still but for them, and a pan that steams. */
export function kitchen(seed: number): Scene {
  const next = random(seed);
  const [wood, tiles] = [lineSampler(texture(seed, { coarsest: 8, roughness: 0.7 })), next() * 10];
  const steam = texture(seed + 2, { coarsest: 4, octaves: 4 });
  return (seconds, width, height) => {
    const chop = abs(sin(seconds * 8.3)) * height * 0.1;
    const along = width * (0.3 + 0.05 * wrap(seconds * 0.35, 1)) + 3 * sin(seconds * 1.1);
    return (x, y, out) => {
      if (y < height * 0.4) {
        const joint = wrap(x + tiles, 36) < 2 || wrap(y, 30) < 2;
        set(out, joint ? colour(150, 150, 146) : colour(206, 208, 204), 3 * wood(x, y));
      } else set(out, colour(150, 110, 70), 24 * wood(x * 0.3, y * 3));
      cover(out, colour(40, 42, 46), edge(height * 0.16 - hypot((x - width * 0.78) * 0.6, (y - height * 0.55) * 1.4)));
      const wisp = max(0, sample(steam, x * 0.8, y + seconds * 46) + 0.1 * sin(seconds * 3 + y * 0.04));
      const above = exp(-(((x - width * 0.78) / (30 + 0.3 * max(0, height * 0.5 - y))) ** 2));
      if (y < height * 0.52) cover(out, CHALK, min(0.5, 0.7 * wisp * above));
      const hand = hypot((x - along) * 0.7, y - height * 0.66 + chop) - height * 0.1;
      cover(out, colour(206, 212, 218), edge(min(6 - abs(y - height * 0.76 + chop), 70 - abs(x - along + 40))));
      cover(out, colour(210, 160, 132), edge(-hand));
      cover(
        out,
        colour(206, 156, 128),
        edge(height * 0.08 - hypot((x - width * 0.18 - 2 * sin(seconds * 2.2)) * 0.6, y - height * 0.74)),
      );
    };
  };
}
