import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { isMainThread, Worker, workerData } from 'node:worker_threads';
import { HLG, lumaShares } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { type EncodeRequest, ffmpeg } from '@thawline/media';

/** Made-up clips of other kinds of pictures than cameras usually give: one with alpha, one of all around, one of high dynamic range. */

const { abs, cos, exp, floor, hypot, log, max, min, PI, round, sin, sqrt, tan } = Math;

interface PictureClip {
  readonly name: string;
  readonly file: string;
  readonly frames: number;
  readonly request: Omit<EncodeRequest, 'rate'>;
  readonly picture: (k: number) => Uint8Array;
}

const RATE = 25;
/** How much of a pixel lies within an edge that is `inside` pixels away. */
const soft = (inside: number): number => max(0, min(1, inside + 0.5));
const within = (value: number): number => max(0, min(255, round(value)));

/** A skiff with a sail, keyed: colour straight, nothing around it. It comes in from the left and rocks. */
function keyedSkiff(): PictureClip {
  const [width, height] = [640, 360];
  const n = width * height;
  const picture = (k: number): Uint8Array => {
    const out = new Uint8Array(4 * n);
    const [atX, atY] = [120 + 3.2 * k, 236 + 5 * sin(k / 9)];
    const tilt = 0.07 * sin(k / 11);
    const [c, s] = [cos(tilt), sin(tilt)];
    // Nothing of it is further off.
    for (let y = max(0, floor(atY) - 140); y < min(height, atY + 50); y++) {
      for (let x = max(0, floor(atX) - 110); x < min(width, atX + 110); x++) {
        const [dx, dy] = [x - atX, y - atY];
        // In the boat's own axes, up negative.
        const [u, v] = [c * dx + s * dy, c * dy - s * dx];
        const hull = min(soft(v), soft(22 - v), soft(78 - v * 1.1 - abs(u)));
        const mast = min(soft(2 - abs(u - 4)), soft(v + 120), soft(2 - v));
        const sail = min(soft(u - 8), soft(-v - 10), soft((v + 116) * 0.62 - (u - 8)));
        const alpha = max(hull, mast, sail);
        if (alpha === 0) continue;
        const at = y * width + x;
        const plank = 0.82 + 0.18 * sin(v * 0.9);
        const cloth = 0.93 + 0.07 * sin((u + v) / 9);
        const [r, g, b] =
          sail >= hull && sail >= mast
            ? [236 * cloth, 228 * cloth, 208 * cloth]
            : mast > hull
              ? [96, 74, 52]
              : [172 * plank, 64 * plank, 44 * plank];
        out[at] = within(g);
        out[n + at] = within(b);
        out[2 * n + at] = within(r);
        out[3 * n + at] = within(255 * alpha);
      }
    }
    return out;
  };
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' } as const;
  const request = { width, height, pixelFormat: 'gbrap', form: 'mov', codec: 'prores', colour } as const;
  return { name: 'keyed-skiff', file: 'keyed-skiff.mov', frames: 100, request, picture };
}

/** Light of red, green and blue in a direction from the jetty: degrees to the right of its end, and up. */
function fromJetty(right: number, up: number, seconds: number): readonly [number, number, number] {
  const turn = (right * PI) / 180;
  const ridge = 6 + 3 * sin(3 * turn + 1) + 2 * sin(7 * turn) + 1.2 * sin(17 * turn + 2) + 0.6 * sin(41 * turn);
  if (up > ridge) {
    const haze = exp(-(up - ridge) / 22);
    return [120 + 90 * haze, 150 + 72 * haze, 178 + 52 * haze];
  }
  if (up > 0) {
    const tree = 0.75 + 0.25 * sin(right * 2.3 + 9 * sin(up));
    return [52 * tree, 74 * tree, 76 * tree];
  }
  // The jetty goes straight ahead and ends; beside and behind it is water.
  const away = 1.6 / max(0.02, tan((-up * PI) / 180));
  const [across, along] = [away * sin(turn), away * cos(turn)];
  if (abs(across) < 0.9 && along < 9 && along > -3) {
    const plank = floor(along * 3.2);
    const shade = 0.78 + 0.2 * abs(sin(plank * 12.9)) - (along * 3.2 - plank < 0.08 ? 0.4 : 0);
    return [150 * shade, 118 * shade, 88 * shade];
  }
  const wave = sin(across * 3 + seconds * 2) + sin(along * 4.1 - seconds * 2.6) + sin((across + along) * 6.3 + seconds);
  const glint = 0.8 + (0.1 * wave) / (1 + away / 12);
  return [58 * glint, 92 * glint, 108 * glint];
}

/** From the end of the jetty, all around, the camera turning slowly; the seam is in the water behind. */
function jettyAround(): PictureClip {
  const [width, height] = [1024, 512];
  const n = width * height;
  const picture = (k: number): Uint8Array => {
    const out = new Uint8Array(3 * n);
    for (let y = 0; y < height; y++) {
      const up = 90 - ((y + 0.5) * 180) / height;
      for (let x = 0; x < width; x++) {
        const right = (((x + 0.5) * 360) / width + 0.9 * k) % 360;
        const [r, g, b] = fromJetty(right - 180, up, k / RATE);
        const at = y * width + x;
        [out[at], out[n + at], out[2 * n + at]] = [within(g), within(b), within(r)];
      }
    }
    return out;
  };
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' } as const;
  const request = { width, height, pixelFormat: 'gbrp', form: 'mp4', codec: 'h264', crf: 20, colour, sphere: true } as const;
  return { name: 'jetty-around', file: 'jetty-around.mp4', frames: 50, request, picture };
}

/** The HLG signal of scene light (ITU-R BT.2100). */
const hlg = (light: number): number =>
  light <= 1 / 12 ? sqrt(3 * max(0, light)) : 0.17883277 * log(12 * min(1, light) - 0.28466892) + 0.55991073;

/** The sun comes over the ridge: ten times as light as the sky beside it, in HLG. */
function dawn(): PictureClip {
  const [width, height] = [640, 360];
  const n = width * height;
  const [kr, kb] = lumaShares('bt2020nc');
  const picture = (k: number): Uint8Array => {
    const samples = new Uint16Array(n + n / 2);
    const [sunX, sunY] = [400, 214 - 0.55 * k];
    const light = new Float32Array(3 * n);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const away = hypot(x - sunX, y - sunY);
        const glow = exp(-away / 90);
        const disc = soft(13 - away);
        const top = 205 - 26 * sin(x / 97 + 0.6) - 10 * sin(x / 31) - 4 * sin(x / 11);
        const ground = soft(y - top);
        const dusk = 0.02 + (0.05 * y) / height;
        const sky = [dusk + 0.16 * glow + 0.95 * disc, 0.8 * dusk + 0.08 * glow + 0.85 * disc, dusk + 0.03 * glow + 0.6 * disc];
        const wet = y > 286 ? 0.25 * exp(-abs(x - sunX - 6 * sin(y / 3 + k / 4)) / 26) : 0;
        const land = [0.006 + wet, 0.007 + 0.7 * wet, 0.009 + 0.4 * wet];
        for (let p = 0; p < 3; p++)
          light[p * n + y * width + x] = (sky[p] as number) * (1 - ground) + (land[p] as number) * ground;
      }
    }
    const sums = new Float32Array(n / 2);
    for (let i = 0; i < n; i++) {
      const [r, g, b] = [hlg(light[i] as number), hlg(light[n + i] as number), hlg(light[2 * n + i] as number)];
      const luma = kr * r + (1 - kr - kb) * g + kb * b;
      samples[i] = round(64 + 876 * luma);
      const at = (floor(i / width) >> 1) * (width / 2) + ((i % width) >> 1);
      sums[at] = (sums[at] as number) + (b - luma) / (2 * (1 - kb)) / 4;
      sums[n / 4 + at] = (sums[n / 4 + at] as number) + (r - luma) / (2 * (1 - kr)) / 4;
    }
    for (let i = 0; i < n / 2; i++) samples[n + i] = round(512 + 896 * (sums[i] as number));
    return new Uint8Array(samples.buffer);
  };
  const colour = { primaries: 'bt2020', transfer: HLG, matrix: 'bt2020nc', range: 'limited' } as const;
  const request = { width, height, pixelFormat: 'yuv420p10le', form: 'mp4', codec: 'hevc', crf: 18, colour } as const;
  return { name: 'dawn-hlg', file: 'dawn-hlg.mp4', frames: 75, request, picture };
}

/**
 * Writes a keyed skiff, a view from the jetty of all around and a dawn in HLG into a folder, in a thread; those that are there stay.
 * @returns their names and paths
 */
export async function writePictureClips(folder: string): Promise<{ readonly name: string; readonly path: string }[]> {
  await new Promise<void>((resolve, reject) => {
    const worker = new Worker(new URL(import.meta.url), { workerData: { pictureFolder: folder } });
    worker.once('error', reject);
    worker.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`the rig's worker ended with ${code}`))));
  });
  return pictureClips().map(({ name, file }) => ({ name, path: join(folder, file) }));
}

const pictureClips = (): PictureClip[] => [keyedSkiff(), jettyAround(), dawn()];

async function writeAll(folder: string): Promise<void> {
  await mkdir(folder, { recursive: true });
  for (const { file, frames, request, picture } of pictureClips()) {
    const path = join(folder, file);
    if (existsSync(path)) continue;
    const partial = join(folder, `partial-${process.pid}-${file}`);
    const pictures = function* (): Generator<Uint8Array> {
      for (let k = 0; k < frames; k++) yield picture(k);
    };
    try {
      await ffmpeg.encode(partial, { ...request, rate: rate(RATE) }, pictures());
      await rename(partial, path);
    } catch (error) {
      await rm(partial, { force: true });
      throw error;
    }
  }
}

if (!isMainThread && typeof workerData?.pictureFolder === 'string') await writeAll(workerData.pictureFolder);
