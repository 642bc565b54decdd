import { emptyField, type Field } from './field.js';

const { abs, ceil, floor, fround, max, min, round } = Math;

/** Cost added to a vector that the other picture does not confirm, so that every confirmed one is preferred. */
const BEHIND = 1000;
/** A vector counts for samples this near to where it was carried, across and down. */
const NEAR = 0.75;
/** A vector that costs less than this leaves hardly anything over: no other one is looked at. */
const GOOD = 1;
/** Expected squared error, in 8-bit steps, of a sample that one picture shows, and of one that none was seen to show. */
const RISK_ONE = 64;
const RISK_NONE = 144;

/** Which picture a sample is taken from: 1 the first, 2 the second, 3 both, by a confirmed vector, 4 both, without one. */
export type SampleOrigin = 1 | 2 | 3 | 4;

/** What is known of a moment between two pictures. Vectors lead from the first picture to the second, through the sample. */
export interface FieldBetween {
  readonly field: Field;
  readonly who: Uint8Array;
  /** The second picture's share at each sample, in 256ths. */
  readonly share: Uint16Array;
  /** Expected squared error of each sample, in 8-bit steps. */
  readonly risk: Float32Array;
  /** Mean of risk. */
  readonly meanRisk: number;
}

/**
 * Carries both fields along themselves to the moment t (0 to 1); where several meet, the one that fits best stays, and those that
 * are confirmed stand before those that are not (after Baker and others 2011, "A database and evaluation methodology for optical
 * flow", section 3.3). A sample that only an unconfirmed vector reaches is covered in the other picture, and taken from its own.
 */
export function atMoment({
  forward,
  forwardMarks,
  backward,
  backwardMarks,
  t,
  fill,
}: {
  readonly forward: Field;
  readonly forwardMarks: Uint8Array;
  readonly backward: Field;
  readonly backwardMarks: Uint8Array;
  readonly t: number;
  readonly fill: (field: Field, holes: Uint8Array) => void;
}): FieldBetween {
  const { width, height, stride, at } = forward;
  const n = width * height;
  const field = emptyField(width, height);
  const cost = new Float32Array(n).fill(1e9);
  const who = new Uint8Array(n);
  const carry = (from: Field, marks: Uint8Array, step: number, sign: number, own: SampleOrigin): void => {
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const i = at + y * stride + x;
        const [u, v] = [from.u[i], from.v[i]];
        const px = fround(x + fround(step * u));
        const py = fround(y + fround(step * v));
        if (!(px > -1 && py > -1 && px < width && py < height)) continue;
        // A confirmed vector is not replaced by the other field's.
        if (sign < 0) {
          const [nx, ny] = [floor(fround(px + 0.5)), floor(fround(py + 0.5))];
          if (nx >= 0 && ny >= 0 && nx < width && ny < height && cost[ny * width + nx] < GOOD) continue;
        }
        const mark = marks[y * width + x];
        const base = mark !== 0 ? BEHIND : from.err[i] / 100;
        for (let ty = max(0, ceil(fround(py - NEAR))); ty <= min(height - 1, floor(fround(py + NEAR))); ty++) {
          for (let tx = max(0, ceil(fround(px - NEAR))); tx <= min(width - 1, floor(fround(px + NEAR))); tx++) {
            const to = ty * width + tx;
            const price = fround(base + abs(ty - py) + abs(tx - px));
            if (price >= cost[to]) continue;
            cost[to] = price;
            who[to] = mark === 0 ? 3 : mark === 3 ? 4 : own;
            field.u[at + ty * stride + tx] = u * sign;
            field.v[at + ty * stride + tx] = v * sign;
          }
        }
      }
    }
  };
  carry(forward, forwardMarks, fround(t), 1, 1);
  carry(backward, backwardMarks, fround(1 - fround(t)), -1, 2);
  const holes = Uint8Array.from(who, (k) => (k === 0 ? 1 : 0));
  for (let i = 0; i < n; i++) {
    if (who[i] !== 0) continue;
    who[i] = 4;
    cost[i] = BEHIND;
  }
  fill(field, holes);
  return { field, who, ...weigh(who, cost, { width, height, t }) };
}

/** Shares are averaged over the neighbours, so that no seam shows where one picture takes over from two. */
function weigh(
  who: Uint8Array,
  cost: Float32Array,
  { width, height, t }: { readonly width: number; readonly height: number; readonly t: number },
): Pick<FieldBetween, 'share' | 'risk' | 'meanRisk'> {
  const share = new Uint16Array(width * height);
  const risk = new Float32Array(width * height);
  let total = 0;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [first, second] = [0, 0];
      for (let j = max(0, y - 1); j <= min(height - 1, y + 1); j++) {
        for (let i = max(0, x - 1); i <= min(width - 1, x + 1); i++) {
          const k = who[j * width + i] as SampleOrigin;
          if (k !== 2) first++;
          if (k !== 1) second++;
        }
      }
      const at = y * width + x;
      share[at] = round((256 * second * t) / (first * (1 - t) + second * t));
      const k = who[at] as SampleOrigin;
      risk[at] = k === 3 ? cost[at] ** 2 * 0.25 : k === 4 ? RISK_NONE : RISK_ONE;
      total += risk[at];
    }
  }
  return { share, risk, meanRisk: total / (width * height) };
}

/** Certainty of a made picture, 0 to 1, from its expected squared error: 1 at 50 dB and more, 0 at 20 dB and less. */
export function certaintyOf(meanRisk: number): number {
  const decibel = 10 * Math.log10((255 * 255) / max(meanRisk, 0.01));
  return max(0, min(1, (decibel - 20) / 30));
}
