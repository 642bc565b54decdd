import { blend, colour, cover, type Pixel, Sensor, type Shader } from './canvas.js';
import { random } from './random.js';
import { icicles, interview, lake, type Scene } from './scenes.js';
import { sample, texture } from './texture.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, cos, floor, max, min, sin, sqrt } = Math;

/** A place that moves, for measuring made pictures: every moment between two real pictures can be had as it truly is. */
export interface MovingScene {
  readonly name: string;
  /** What there is to see at a moment, counted in real pictures; 1080 lines are the measure of its motion. */
  readonly scene: Scene;
  /** Sensor noise of the real pictures, standard deviation in 8-bit steps. The truth between them has none. */
  readonly noise: number;
  /** Light at a moment, as a multiple of luma above black. */
  readonly light: (moment: number) => number;
}

const ROCK = colour(104, 112, 108);
const SNOW = colour(214, 224, 228);
const DARK = colour(44, 62, 70);
const RED = colour(168, 74, 52);
const PINE = colour(58, 84, 70);
const BRIGHT_WIRE = { y: 226, u: 128, v: 128 };
const DARK_WIRE = { y: 30, u: 128, v: 128 };

/** 0 outside, 1 inside, even over one pixel and a half, as a lens draws an edge. */
function edge(inside: number): number {
  return max(0, min(1, inside / 1.5 + 0.5));
}

/** A shore without end: rock and snow at all scales, few finer than two pixels, with cairns and cracks. */
function shore(seed: number): (x: number, y: number, out: Pixel) => void {
  const ground = texture(seed, { size: 512, coarsest: 8, octaves: 7, roughness: 0.68 });
  const patches = texture(seed + 1, { size: 512, coarsest: 8, octaves: 4, roughness: 0.5 });
  return (x, y, out) => {
    const snow = edge((sample(patches, x * 0.19, y * 0.19) - 0.12) * 40);
    const rock = 46 * sample(ground, x * 0.68, y * 0.68) + 22 * sample(ground, x * 0.11 + 300, y * 0.11);
    out[0] = ROCK.y + rock;
    out[1] = ROCK.u;
    out[2] = ROCK.v;
    blend(out, SNOW, 17 * sample(ground, x * 0.5 + 90, y * 0.5) - 14, snow);
    const column = floor(x / 230);
    const cairn = sqrt((x - column * 230 - 60 - ((column * 37) % 90)) ** 2 + (y - 240 - ((column * 97) % 400)) ** 2);
    if (cairn < 30) blend(out, DARK, 20 * sample(ground, x * 0.5, y * 0.5), edge(27 - cairn));
  };
}

interface View {
  readonly x: number;
  readonly y: number;
  /** Enlargement about the middle of the frame. */
  readonly zoom?: number;
  /** Turn about the middle of the frame, in radians. */
  readonly turn?: number;
}

/** The shore through a camera that goes where it is told; places scale with the frame's height over 1080. */
function filmed(seed: number, camera: (moment: number) => View): Scene {
  const world = shore(seed);
  return (moment, width, height) => {
    const { x, y, zoom = 1, turn = 0 } = camera(moment);
    const k = height / 1080;
    const across = cos(turn) / zoom;
    const down = sin(turn) / zoom;
    return (px, py, out) => {
      const dx = px - width / 2;
      const dy = py - height / 2;
      world(dx * across - dy * down + width / 2 + x * k, dx * down + dy * across + height / 2 + y * k, out);
    };
  };
}

/** A boat-shaped thing with a grain of its own. */
interface Thing {
  readonly x: (moment: number) => number;
  readonly y: (moment: number) => number;
  readonly rx: number;
  readonly ry: number;
  readonly colour: { readonly y: number; readonly u: number; readonly v: number };
}

/** Things that pass before each other and before a shore that moves another way. The last one is nearest. */
function passing(seed: number, things: readonly Thing[], camera: (moment: number) => View): Scene {
  const back = filmed(seed, camera);
  const grain = texture(seed + 9, { size: 512, coarsest: 16, octaves: 6, roughness: 0.65 });
  return (moment, width, height) => {
    const behind = back(moment, width, height);
    const k = height / 1080;
    const placed = things.map((t, i) => ({ ...t, cx: t.x(moment) * k, cy: t.y(moment) * k, rx: t.rx * k, ry: t.ry * k, i }));
    return (px, py, out) => {
      behind(px, py, out);
      for (const { cx, cy, rx, ry, colour: c, i } of placed) {
        const dx = px - cx;
        const dy = py - cy;
        if (abs(dx) > rx + 2 || abs(dy) > ry + 2) continue;
        const inside = (1 - sqrt((dx / rx) ** 4 + (dy / ry) ** 4)) * min(rx, ry) * 0.5;
        const share = edge(inside);
        if (share > 0) blend(out, c, 30 * sample(grain, dx * 0.6 + i * 140, dy * 0.6 + i * 60), share);
      }
    };
  };
}

/** Stays and wires of a mast, one or two pixels thick, swinging before a shore that drifts. */
function wires(seed: number): Scene {
  const back = filmed(seed, (t) => ({ x: 7 * t, y: 1.5 * t }));
  const swings = Array.from({ length: 9 }, (_, i) => straight((t) => 0.03 * sin(t * 0.6 + i)));
  return (moment, width, height) => {
    const behind = back(moment, width, height);
    const k = height / 1080;
    const lines = Array.from({ length: 9 }, (_, i) => {
      const angle = -0.5 + i * 0.12 + (swings[i]?.(moment) ?? 0);
      const at = (60 + i * 228 - 27 * moment) * k;
      return {
        nx: cos(angle),
        ny: sin(angle),
        at,
        half: (i % 3 === 0 ? 1.3 : 0.8) * max(0.8, k),
        light: i % 2 === 0 ? BRIGHT_WIRE : DARK_WIRE,
      };
    });
    return (px, py, out) => {
      behind(px, py, out);
      for (const { nx, ny, at, half, light } of lines) {
        const off = abs((px - at) * nx + (py - height * 0.4) * ny);
        if (off < half + 1) cover(out, light, edge(half - off));
      }
    };
  };
}

/** Pickets: the same thing again and again, before a far shore. */
function pickets(seed: number): Scene {
  const back = filmed(seed, (t) => ({ x: 6 * t, y: 0 }));
  const wood = texture(seed + 3, { size: 512, coarsest: 32, octaves: 5, roughness: 0.4 });
  return (moment, width, height) => {
    const behind = back(moment, width, height);
    const k = height / 1080;
    const pitch = 58 * k;
    const shift = 22 * k * moment;
    return (px, py, out) => {
      behind(px, py, out);
      if (py < height * 0.35) return;
      const x = px + shift;
      const off = abs(x - floor(x / pitch) * pitch - pitch / 2);
      const share = max(edge(9 * k - off), edge(7 * k - abs(py - height * 0.55)));
      if (share > 0) blend(out, PINE, 60 + 16 * sample(wood, x * 0.4, py * 0.12), share);
    };
  };
}

/** Goes straight from one real picture to the next, as nobody could know better who sees the pictures alone. */
function straight(f: (moment: number) => number): (moment: number) => number {
  return (moment) => {
    const k = floor(moment);
    return f(k) + (moment - k) * (f(k + 1) - f(k));
  };
}

/** Scenes over which made pictures are measured, all of them moving without end. Other seeds give other places and other phases. */
export function movingScenes(seed: number): MovingScene[] {
  const next = random(seed);
  const phase = next() * 6;
  const jittered = 0.85 + 0.3 * next();
  const jitter = (): number => 0.85 + 0.3 * next();
  const steady = (): number => 1;
  const of = (name: string, build: () => Scene, noise = 0.4, light: (moment: number) => number = steady): MovingScene => {
    // Built when it is looked at: textures take their time.
    let built: Scene | null = null;
    const scene: Scene = (moment, width, height) => {
      built ??= build();
      return built(moment, width, height);
    };
    return { name, scene, noise, light };
  };
  const slow = 5.3 * jitter();
  const swing = 0.9 * jitter();
  const boats: Thing[] = [
    { x: (t) => 420 + 62 * jittered * t, y: (t) => 420 + 14 * t, rx: 260, ry: 130, colour: RED },
    { x: (t) => 1180 - 55 * jittered * t, y: (t) => 500 - 8 * t, rx: 210, ry: 150, colour: SNOW },
    { x: (t) => 1560 - 9 * t, y: (t) => 240 + 38 * t, rx: 60, ry: 60, colour: DARK },
    { x: (t) => 660 + 27 * t, y: (t) => 900 - 47 * jittered * t, rx: 120, ry: 170, colour: PINE },
  ];
  const sway = straight((t) => 45 * sin(t * swing + phase));
  const bob = straight((t) => 30 * sin(t * 1.3 * swing));
  const roll = straight((t) => 0.01 * sin(t * 0.8));
  const flicker = straight((t) => 1 + 0.13 * sin(t * 0.9 + phase) + 0.04 * sin(t * 1.3 + 2 * phase));
  return [
    of('still camera, slow pan', () => filmed(seed + 1, (t) => ({ x: slow * t, y: 0.7 * t }))),
    of('pan of 60', () => filmed(seed + 2, (t) => ({ x: 60 * t, y: 0 }))),
    of('hand-held', () => filmed(seed + 3, (t) => ({ x: sway(t), y: bob(t), turn: roll(t) }))),
    of('whip of 80', () => filmed(seed + 4, (t) => ({ x: -66.4 * t, y: 45.2 * t }))),
    of('zoom', () => filmed(seed + 5, (t) => ({ x: 90 * t * 0.1, y: 30, zoom: 1.035 ** t }))),
    of('rotation', () => filmed(seed + 6, (t) => ({ x: 0, y: 0, turn: 0.035 * jittered * t }))),
    of('crossing objects', () => passing(seed + 7, boats, (t) => ({ x: 4.4 * t, y: 0.6 * t }))),
    of('thin lines', () => wires(seed + 8)),
    of('repeating', () => pickets(seed + 9)),
    of('flicker with noise', () => filmed(seed + 10, (t) => ({ x: 17.3 * t, y: 4.1 * t })), 2.2, flicker),
    of('noise', () => filmed(seed + 11, (t) => ({ x: -6.2 * t, y: 3.4 * t })), 4),
    of('floes', () => scaled(lake({ seed: seed + 12, speed: 11, floes: 60 }), 1 / 25), 0.4),
    of('icicles', () => scaled(icicles(seed + 13), 1 / 16, 3), 0.4),
    of(
      'talking',
      () =>
        scaled(
          interview(seed + 14, (s) => 0.5 + 0.5 * sin(s * 7 + phase), 1.1),
          1 / 20,
          0.4,
        ),
      0.4,
    ),
  ];
}

/** A scene made for 25 pictures a second, begun at a moment of its own. */
function scaled(scene: Scene, seconds: number, from = 0): Scene {
  return (moment, width, height) => scene(from + moment * seconds, width, height);
}

function lit(scene: Scene, light: number): Scene {
  return (moment, width, height) => {
    const shader: Shader = scene(moment, width, height);
    return (x, y, out) => {
      shader(x, y, out);
      out[0] = 16 + ((out[0] as number) - 16) * light;
    };
  };
}

/** Takes pictures of a moving scene. Truths have no noise. Packed yuv420p; width and height even. */
export class Filmed {
  private readonly sensor: Sensor;
  private readonly clean = new Sensor(1, 0);

  constructor(
    private readonly moving: MovingScene,
    private readonly width: number,
    private readonly height: number,
    seed: number,
  ) {
    this.sensor = new Sensor(seed, moving.noise);
  }

  /** The real picture at a moment, counted in real pictures. */
  real(moment: number): Uint8Array {
    return this.expose(moment, this.sensor);
  }

  truth(moment: number): Uint8Array {
    return this.expose(moment, this.clean);
  }

  private expose(moment: number, sensor: Sensor): Uint8Array {
    const { scene, light } = this.moving;
    return sensor.expose(lit(scene, light(moment))(moment, this.width, this.height), this.width, this.height);
  }
}
