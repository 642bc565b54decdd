import { Fft, powerOfTwo } from './fft.js';
import { BANDS, HOP, OUTLINE_RATE, type SoundOutline } from './outline.js';
import type { Strike } from './strikes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min, sqrt } = Math;

/** Clocks differ by less than this, as a share: 1001/1000 and half as much again. */
export const RATIO_REACH = 0.0016;
/** Moments less than this apart tell nothing of a drift by themselves, in seconds. */
const SHORT = 8;
const FRAME = HOP / OUTLINE_RATE;

/** A supposed relation: b = y + ratio * (a - x), in seconds. */
export interface Line {
  readonly x: number;
  readonly y: number;
  readonly ratio: number;
  /** How far the ratio may be off. */
  readonly doubt: number;
  readonly score: number;
}

interface Hit {
  readonly segment: number;
  readonly x: number;
  readonly y: number;
  readonly height: number;
}

/** Stretches of the first recording that are looked for in the second. */
const SEGMENTS = 48;
const [SHORTEST, LONGEST] = [200, 1500];
/** Places kept of each stretch. */
const PLACES = 3;

/** Relations that the outlines of two sounds allow, likeliest first. */
export function likelyLines(a: SoundOutline, b: SoundOutline): Line[] {
  return [...linesOfHits(hits(a, b)), ...linesOfStrikes(a.strikes, b.strikes)];
}

/**
 * Where in b stretches of a are most alike: correlation of all bands at once, by transforms as long as b. Two bands share a transform as
 * real and imaginary part; the sum of both correlations is then the real part of what comes back.
 */
function hits(a: SoundOutline, b: SoundOutline): Hit[] {
  const [lengthA, lengthB] = [a.bands[0]?.length ?? 0, b.bands[0]?.length ?? 0];
  const span = max(SHORTEST, min(LONGEST, floor(lengthA / 6)));
  if (lengthA < 25 || lengthB < 25) return [];
  const count = max(1, min(SEGMENTS, floor((2 * lengthA) / span)));
  const fft = new Fft(powerOfTwo(lengthB + span));
  const { size } = fft;
  const pairs = Array.from({ length: BANDS / 2 }, (_, pair) => packed(b, { band: 2 * pair, from: 0, to: lengthB, fft }));
  const energyB = new Float64Array(lengthB + 1);
  for (let n = 0; n < lengthB; n++)
    energyB[n + 1] = (energyB[n] as number) + b.bands.reduce((sum, band) => sum + (band[n] as number) ** 2, 0);
  const found: Hit[] = [];
  for (let segment = 0; segment < count; segment++) {
    const from = count === 1 ? 0 : floor((segment * max(0, lengthA - span)) / (count - 1));
    const to = min(lengthA, from + span);
    const re = new Float64Array(size);
    const im = new Float64Array(size);
    pairs.forEach((other, pair) => {
      const own = packed(a, { band: 2 * pair, from, to, fft });
      for (let k = 0; k < size; k++) {
        const [xr, xi, yr, yi] = [own.re[k] as number, own.im[k] as number, other.re[k] as number, other.im[k] as number];
        re[k] = (re[k] as number) + xr * yr + xi * yi;
        im[k] = (im[k] as number) + xr * yi - xi * yr;
      }
    });
    fft.back(re, im);
    const middle = ((from + to) / 2) * FRAME;
    for (const { lag, height } of peaks(re, energyB, to - from, lengthB))
      found.push({ segment, x: middle, y: middle + (lag - from) * FRAME, height });
  }
  return found;
}

interface Complex {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

function packed(
  outline: SoundOutline,
  { band, from, to, fft }: { readonly band: number; readonly from: number; readonly to: number; readonly fft: Fft },
): Complex {
  const re = new Float64Array(fft.size);
  const im = new Float64Array(fft.size);
  for (let n = from; n < to; n++) {
    re[n - from] = outline.bands[band]?.[n] as number;
    im[n - from] = outline.bands[band + 1]?.[n] as number;
  }
  fft.forward(re, im);
  return { re, im };
}

function peaks(
  correlation: Float64Array,
  energyB: Float64Array,
  span: number,
  lengthB: number,
): { lag: number; height: number }[] {
  const { length: size } = correlation;
  const usual = (span * (energyB[lengthB] as number)) / max(1, lengthB);
  const [first, end] = [-floor(span * 0.7), lengthB - floor(span * 0.3)];
  const alike = new Float64Array(max(1, end - first));
  let square = 0;
  for (let lag = first; lag < end; lag++) {
    const energy = (energyB[min(lengthB, lag + span)] as number) - (energyB[max(0, lag)] as number);
    const value = (correlation[(lag + size) % size] as number) / sqrt(max(energy, 0.3 * usual) || 1);
    alike[lag - first] = value;
    square += value * value;
  }
  const noise = sqrt(square / alike.length) || 1;
  const out: { lag: number; height: number }[] = [];
  const free = alike.slice();
  while (out.length < PLACES) {
    let best = 0;
    for (let i = 1; i < free.length; i++) if ((free[i] as number) > (free[best] as number)) best = i;
    const height = (free[best] as number) / noise;
    // Low ones, too: a rhythm that both have raises everything. Exact correlation decides.
    if (height < 1.2) break;
    const [before, top, after] = [alike[best - 1] ?? 0, alike[best] as number, alike[best + 1] ?? 0];
    const bend = before - 2 * top + after;
    out.push({ lag: first + best + (bend < 0 ? max(-0.5, min(0.5, (0.5 * (before - after)) / bend)) : 0), height });
    free.fill(0, max(0, best - 12), best + 13);
  }
  return out;
}

/** Relations that several hits agree on; a hit alone is one, too. */
function linesOfHits(found: readonly Hit[]): Line[] {
  const lines: Line[] = [];
  for (const one of found) {
    lines.push({ x: one.x, y: one.y, ratio: 1, doubt: RATIO_REACH, score: one.height });
    for (const other of found) {
      const [dx, dy] = [other.x - one.x, other.y - one.y];
      if (dx < SHORT) continue;
      const slack = (1.2 * FRAME) / dx;
      const ratio = dy / dx;
      if (abs(ratio - 1) > RATIO_REACH + slack) continue;
      const line = { x: one.x, y: one.y, ratio, doubt: slack };
      lines.push({ ...line, score: support(found, line, 1.2 * FRAME) });
    }
  }
  return best(lines, 4);
}

/** Heights of the best hit of every stretch that lies on a line. */
function support(found: readonly Hit[], line: Omit<Line, 'score'>, slack: number): number {
  const heights = new Map<number, number>();
  for (const { segment, x, y, height } of found)
    if (abs(y - line.y - line.ratio * (x - line.x)) < slack) heights.set(segment, max(heights.get(segment) ?? 0, height));
  let sum = 0;
  for (const height of heights.values()) sum += height;
  return sum;
}

/** Strongest strikes that are tried as ends of a line, and that count as its support. */
const [ANCHORS, COUNTED] = [14, 60];
/** Two places of the same strike agree to this, in seconds. */
const STRIKE_SLACK = 0.004;

/** Relations that strikes agree on. A single pair is one, too: nothing else may be shared. */
function linesOfStrikes(a: readonly Strike[], b: readonly Strike[]): Line[] {
  const [allA, allB] = [strongest(a, COUNTED), strongest(b, COUNTED)];
  const [topA, topB] = [strongest(a, ANCHORS), strongest(b, ANCHORS)];
  const lines: Line[] = [];
  for (const p of topA)
    for (const q of topB) {
      const weight = min(p.strength, q.strength) / 10;
      lines.push({ x: p.seconds, y: q.seconds, ratio: 1, doubt: RATIO_REACH, score: weight });
      for (const r of topA)
        for (const s of topB) {
          const [dx, dy] = [r.seconds - p.seconds, s.seconds - q.seconds];
          if (dx <= 0 || abs(dy - dx) > RATIO_REACH * dx + STRIKE_SLACK) continue;
          const near = dx < SHORT;
          const line = {
            x: p.seconds,
            y: q.seconds,
            ratio: near ? 1 : dy / dx,
            doubt: near ? RATIO_REACH : STRIKE_SLACK / dx,
          };
          lines.push({ ...line, score: matched(allA, allB, line) });
        }
    }
  return [
    ...best(lines, 5),
    ...best(
      lines.filter((l) => l.doubt === RATIO_REACH),
      4,
    ),
  ];
}

function strongest(strikes: readonly Strike[], count: number): Strike[] {
  const most = [...strikes].sort((x, y) => y.strength - x.strength).slice(0, count);
  return most.sort((x, y) => x.seconds - y.seconds);
}

/** Weight of the strikes of a that have one of b on the line, both in order of time. */
function matched(a: readonly Strike[], b: readonly Strike[], line: Omit<Line, 'score'>): number {
  let j = 0;
  let score = 0;
  for (const strike of a) {
    const wanted = line.y + line.ratio * (strike.seconds - line.x);
    while (j < b.length && (b[j] as Strike).seconds < wanted - STRIKE_SLACK) j++;
    const other = b[j];
    if (other && other.seconds <= wanted + STRIKE_SLACK) score += min(strike.strength, other.strength) / 10;
  }
  return score;
}

/** The best ones that are not the same. */
function best(lines: Line[], count: number): Line[] {
  const out: Line[] = [];
  for (const line of lines.sort((p, q) => q.score - p.score)) {
    const same = out.some(
      (o) => abs(line.y - o.y - o.ratio * (line.x - o.x)) < 0.08 && abs(line.ratio - o.ratio) < line.doubt + o.doubt,
    );
    if (!same) out.push(line);
    if (out.length === count) break;
  }
  return out;
}
