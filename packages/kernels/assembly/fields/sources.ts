import { AROUND_FULL, BLOCK, COMPARED, linesMiss, nearest, PARTS, restAt } from './search';

// What of a side is left over; see core/fields/rebuild.ts.
const SPOILT = 40;
const ONE_SIDED = 16;
const BESIDE = 2;
const BETTER_OF_FOUR = 3;
const LITTLE = 2;
const WORSE_TIMES = 5;
const WORSE_OF = 4;
// Places in SOURCES.
const BOTH: u8 = 0;
export const FAR: u8 = 1;
const PAST: u8 = 2;
const FUTURE: u8 = 3;
export const OWN: u8 = 4;
export const FARTHEST = 4;
const MOST_FAR = 56;

/** Whether nothing of a block lies in the picture, one way. */
function isOutside(at: i32, blocks: i32): bool {
  return at <= -BLOCK || at >= blocks * BLOCK;
}

/**
 * From which fields each block is made.
 * @param before, after soft planes of the fields furthest away; 0 where one is not there
 * @param nearBefore, nearAfter those of the fields beside; 0 where one is not there, or shows another scene
 * @param helps u8, one a phase: whether fields further away may have better lines
 * @param sources u8, one a block, written
 * @returns blocks whose motion was met
 */
export function fieldSources(
  before: usize,
  own: usize,
  after: usize,
  nearBefore: usize,
  nearAfter: usize,
  stride: i32,
  columns: i32,
  rows: i32,
  u: usize,
  v: usize,
  past: usize,
  future: usize,
  hasPast: bool,
  hasFuture: bool,
  helps: usize,
  sources: usize,
): i32 {
  let met = 0;
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const at = <usize>(r * columns + c);
      const back = load<i32>(past + (at << 2));
      const forth = load<i32>(future + (at << 2));
      const less = min(back, forth);
      const more = max(back, forth);
      let source = BOTH;
      if (less > SPOILT * COMPARED || !(hasPast || hasFuture)) source = OWN;
      else if (!hasPast) source = FUTURE;
      else if (!hasFuture) source = PAST;
      else if (more > BESIDE * less + ONE_SIDED * COMPARED) source = back < forth ? PAST : FUTURE;
      else if (before !== 0 && after !== 0) {
        const bu = <i32>load<i16>(u + (at << 1));
        const bv = <i32>load<i16>(v + (at << 1));
        if (load<u8>(helps + <usize>((bv >> 1) & 31)) !== 0) {
          const x = max(-MOST_FAR, min(MOST_FAR, (bu * FARTHEST + PARTS) >> 5));
          const y = max(-MOST_FAR, min(MOST_FAR, (bv * FARTHEST + PARTS) >> 5));
          const by = <usize>(y * stride + x);
          const corner = <usize>((r * BLOCK - AROUND_FULL) * stride + c * BLOCK - AROUND_FULL);
          const rest =
            restAt(before + corner - by, own + corner, stride, true) + restAt(after + corner + by, own + corner, stride, true);
          if (2 * 4 * (rest >> 1) < BETTER_OF_FOUR * (back + forth)) source = FAR;
        }
      }
      // Own lines make it better than motion that leaves more over than they miss of each other.
      const left = source === PAST ? back : source === FUTURE ? forth : (back + forth) >> 1;
      if (source !== OWN && left >= LITTLE * COMPARED) {
        const corner = <usize>((r * BLOCK - AROUND_FULL) * stride + c * BLOCK - AROUND_FULL);
        let worse = true;
        let isOut = false;
        let apart = 1 << 24;
        if (nearBefore !== 0 && nearAfter !== 0) {
          const x = nearest(<i32>load<i16>(u + (at << 1)));
          const y = nearest(<i32>load<i16>(v + (at << 1)));
          const lx = x >> 1;
          const ly = y >> 1;
          isOut =
            isOutside(c * BLOCK - lx, columns) ||
            isOutside(c * BLOCK + x - lx, columns) ||
            isOutside(r * BLOCK - ly, rows) ||
            isOutside(r * BLOCK + y - ly, rows);
          const earlier = nearBefore + corner - <usize>(ly * stride + lx);
          const later = nearAfter + corner + <usize>((y - ly) * stride + x - lx);
          if (!isOut) apart = restAt(earlier, later, stride, true);
        }
        if (!isOut) worse = WORSE_OF * min(left, apart) > WORSE_TIMES * linesMiss(own + corner, stride);
        if (worse) source = OWN;
      }
      if (source !== OWN) met++;
      store<u8>(sources + at, source);
    }
  }
  return met;
}
