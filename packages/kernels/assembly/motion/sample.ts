/** Margin of a plane, in samples. */
export const PAD = 32;
/** Side of a patch, in samples. */
export const SIDE = 8;

/** Eight samples between whole places of a row, in 12 bits. */
export function across(at: usize, fx: v128): v128 {
  const a = i16x8.shl(v128.load8x8_u(at), 4);
  const b = i16x8.shl(v128.load8x8_u(at, 1), 4);
  return i16x8.add(a, i16x8.q15mulr_sat_s(i16x8.sub(b, a), fx));
}
