// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, max, min, round } = Math;

/** Vectors and places between lines and samples are counted in these parts of one. */
export const PARTS = 16;
/** Of a motion down by a frame's two lines and none the fields show the same: phases of vertical motion. */
export const PHASES = 2 * PARTS;
/** Fields on each side that a made line may be taken from. */
export const FARTHEST = 4;
/** Own lines a made one is taken from, at these distances. */
export const OWN_LINES = [-3, -1, 1, 3] as const;
/** Weights are fractions of 15 bits, as WebAssembly's q15mulr takes them. */
const ONE = 32768;

/** From which fields a block's lines are made: both sides, one side, or its own field alone; far: those further away, too, where they have better lines. */
export const SOURCES = ['both', 'far', 'past', 'future', 'own'] as const;
export type LineSource = (typeof SOURCES)[number];

/** Entries of one phase: own lines, then two lines of each field from -FARTHEST to FARTHEST but 0. */
export const WEIGHTS_EACH = OWN_LINES.length + 4 * FARTHEST;

/** How alike two places of a picture are that lie so many lines apart: fine detail and broad light, as pictures have them. */
function alike(lines: number): number {
  return 0.55 * exp(-abs(lines) * 0.25) + 0.45 * exp(-lines * lines * 0.12);
}

/** What differs in a field's own lines, and for each field further away, as shares of the light's variance: noise, and motion that is not met. */
const OWN_NOISE = 0.0005;
const FIELD_NOISE = 0.004;
/** Weights of less than this are left out: each line costs time. */
const LIGHT = 0.02;
/** Where this share of the variance, or less, is expected to be missed, no wider reach is looked at. */
const GOOD = 0.004;
/** A wider reach is taken where what it is expected to miss is less by this share. */
const WORTH = 0.8;

interface Line {
  readonly at: number;
  /** Lines above where the made one lies. */
  readonly offset: number;
  readonly noise: number;
}

/** The two lines of a field at a signed distance (in fields) that lie around a made one. */
function linesOf(distance: number, phase: number): Line[] {
  const side = distance < 0 ? FARTHEST + distance : FARTHEST + distance - 1;
  // Fields at an odd distance have the lines that are missing.
  const own = distance % 2 === 0 ? PARTS : 0;
  const above = (((distance * phase + own) % PHASES) + PHASES) % PHASES;
  const noise = FIELD_NOISE * abs(distance);
  return [-above / PARTS, (PHASES - above) / PARTS].map((offset, i) => ({
    at: OWN_LINES.length + 2 * side + i,
    offset,
    noise,
  }));
}

/** Best weights for a place from what lies around it (Wiener), which sum up to 1; and what they are expected to miss, as a share of the variance. */
function wiener(lines: readonly Line[]): { readonly weights: number[]; readonly missed: number } {
  const n = lines.length;
  const rows = lines.map((a, i) => [
    ...lines.map((b, j) => alike(a.offset - b.offset) + (i === j ? a.noise : 0)),
    1,
    alike(a.offset),
  ]);
  rows.push([...lines.map(() => 1), 0, 1]);
  // Gauss and Jordan, with the largest pivot of each column.
  for (let c = 0; c <= n; c++) {
    let pivot = c;
    for (let r = c + 1; r <= n; r++) if (abs(rows[r]?.[c]) > abs(rows[pivot]?.[c])) pivot = r;
    [rows[c], rows[pivot]] = [rows[pivot] as number[], rows[c] as number[]];
    const row = rows[c] as number[];
    for (let r = 0; r <= n; r++) {
      if (r === c) continue;
      const other = rows[r] as number[];
      const share = other[c] / row[c];
      if (share !== 0) for (let k = c; k <= n + 1; k++) other[k] = other[k] - share * row[k];
    }
  }
  const solved = rows.map((row, i) => row[n + 1] / row[i]);
  const weights = solved.slice(0, n);
  const missed = 1 - weights.reduce((sum, w, i) => sum + w * alike(lines[i]?.offset as number), 0) - solved[n];
  return { weights, missed };
}

function chosen(source: LineSource, phase: number): Line[] {
  const own = OWN_LINES.map((offset, at) => ({ at, offset, noise: OWN_NOISE }));
  if (source === 'own') return own;
  if (source === 'past') return [...own, ...linesOf(-1, phase)];
  if (source === 'future') return [...own, ...linesOf(1, phase)];
  const within = (reach: number): Line[] => {
    const fields = Array.from({ length: reach }, (_, i) => i + 1);
    return [...own, ...fields.flatMap((d) => [...linesOf(-d, phase), ...linesOf(d, phase)])];
  };
  if (source === 'both') return within(1);
  let best = within(1);
  if (wiener(best).missed < GOOD) return best;
  for (let reach = 2; reach <= FARTHEST; reach++) {
    const wider = within(reach);
    if (wiener(wider).missed < WORTH * wiener(best).missed) best = wider;
  }
  return best;
}

/** Whether fields further away have better lines at a phase of vertical motion than those beside: what moves by a line each field, nearly, hides from these. */
export function helpsFar(phase: number): boolean {
  const at = (source: LineSource): number => (SOURCES.indexOf(source) * PHASES + (phase & (PHASES - 1))) * WEIGHTS_EACH;
  const [far, both] = [at('far'), at('both')];
  const weights = lineWeights();
  for (let i = 0; i < WEIGHTS_EACH; i++) if (weights[far + i] !== weights[both + i]) return true;
  return false;
}

/** Weights as 15-bit fractions of their sum, those lighter than a limit left out. */
function fractions(weights: readonly number[], light: number): number[] {
  const kept = weights.map((w) => (abs(w) < light ? 0 : w));
  const sum = kept.reduce((all, w) => all + w, 0);
  const parts = kept.map((w) => round((w / sum) * ONE));
  // What rounding loses goes to the heaviest, so that plain light stays what it is.
  const heaviest = parts.indexOf(max(...parts));
  parts[heaviest] = parts[heaviest] + ONE - parts.reduce((all, w) => all + w, 0);
  return parts.map((w) => min(ONE - 1, w));
}

let table: Int16Array | null = null;

/**
 * Weights of all lines by source (in the order of SOURCES), phase of vertical motion (sixteenths of a line a field, modulo PHASES) and line (WEIGHTS_EACH):
 * 15-bit fractions. Lines that are not asked have 0.
 */
export function lineWeights(): Int16Array {
  if (table) return table;
  const made = new Int16Array(SOURCES.length * PHASES * WEIGHTS_EACH);
  SOURCES.forEach((source, s) => {
    for (let phase = 0; phase < PHASES; phase++) {
      const lines = chosen(source, phase);
      const { weights } = wiener(lines);
      const at = (s * PHASES + phase) * WEIGHTS_EACH;
      const parts = fractions(weights, LIGHT);
      lines.forEach((line, i) => {
        made[at + line.at] = parts[i];
      });
    }
  });
  table = made;
  return made;
}

/** Samples that are asked for a place between them, from three before it on. */
export const ACROSS = 8;
const HALF_WIDTH = 4.2;
/** Taps of less than this are left out. */
const LIGHT_TAP = 0.012;

/** Of luma, as sharp as it is: a sine cardinal under a raised cosine. */
function sharp(x: number): number {
  const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
  return sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / HALF_WIDTH));
}

/** Of chroma, whose detail is coarse: a cubic over four samples (Keys, IEEE Trans. ASSP 1981). */
function smooth(x: number): number {
  const d = abs(x);
  if (d >= 2) return 0;
  return d < 1 ? (1.5 * d - 2.5) * d * d + 1 : ((-0.5 * d + 2.5) * d - 4) * d + 2;
}

const taps = new Map<'luma' | 'chroma', Int16Array>();

/** Weights of ACROSS samples by sixteenths of a sample: 15-bit fractions, many of them 0. */
export function tapsAcross(of: 'luma' | 'chroma'): Int16Array {
  const known = taps.get(of);
  if (known) return known;
  const made = new Int16Array(PARTS * ACROSS);
  for (let part = 0; part < PARTS; part++) {
    const weights = Array.from({ length: ACROSS }, (_, k) => (of === 'luma' ? sharp : smooth)(k - 3 - part / PARTS));
    made.set(fractions(weights, LIGHT_TAP), part * ACROSS);
  }
  taps.set(of, made);
  return made;
}
