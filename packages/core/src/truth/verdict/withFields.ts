import { type FilmBeat, filmShare } from '../../fields/index.js';
import { rateToNumber } from '../../time/index.js';
import { beatIn } from '../fields/filmBeats.js';
import type { FieldFinding, FieldStretch } from '../fields/judgeFields.js';
import { kindOf, meanRate, type Stretch, type Verdict } from './verdict.js';

/**
 * A verdict on pictures that hold two moments each, in part or all over: what woven pictures are mixes of is no blending of rates, and pulldown
 * by fields is a stretch of four new pictures in five, none of them held.
 * @param verdict on what both fields of each picture show together
 */
export function withFields(verdict: Verdict, fields: FieldFinding): Verdict {
  const woven = fields.stretches.filter((s) => s.kind !== 'none');
  if (woven.length === 0) return { ...verdict, fields };
  const film = woven.filter((s) => s.kind === 'pulldown');
  const inside = (some: readonly FieldStretch[]) => (k: number) => some.some((s) => k >= s.from && k < s.to);
  const [inWoven, inFilm] = [inside(woven), inside(film)];
  const outOfFilm = (pictures: readonly number[]): number[] => pictures.filter((k) => !inFilm(k));
  const filmStretches = film.map((s): Stretch => {
    const beat: FilmBeat = beatIn(fields.film, s) ?? '2:3';
    const trueRate = verdict.storedRate * rateToNumber(filmShare(beat));
    return { from: s.from, to: s.to, pattern: `${beat} fields`, trueRate, certainty: s.certainty, skips: null };
  });
  const stretches = spliced(verdict.stretches, filmStretches);
  const kept = verdict.blends.map((k) => !inWoven(k));
  const jumps = verdict.jumps.map((k) => !inFilm(k));
  const held = outOfFilm(verdict.held);
  return {
    ...verdict,
    kind: kindOf(stretches, kept.filter(Boolean).length, verdict.pictures),
    trueRate: meanRate(stretches, verdict.storedRate),
    held,
    unchanged: outOfFilm(verdict.unchanged),
    jumps: verdict.jumps.filter((_, i) => jumps[i]),
    missing: verdict.missing.filter((_, i) => jumps[i]),
    faults: verdict.faults.filter((f) => f.kind === 'black' || f.kind === 'white' || f.kind === 'foreign' || !inFilm(f.picture)),
    blends: verdict.blends.filter((_, i) => kept[i]),
    shares: verdict.shares.filter((_, i) => kept[i]),
    made: verdict.made.filter((m) => !inWoven(m.from) && !inWoven(m.to - 1)),
    // Mixed pictures seem to be all new where their parts hold.
    parts: film.length > 0 ? [] : verdict.parts,
    stretches,
    certainty: Math.min(...stretches.map((s) => s.certainty), fields.certainty),
    fields,
  };
}

/** Stretches with those of film in the place of what they cover. */
function spliced(stretches: readonly Stretch[], film: readonly Stretch[]): Stretch[] {
  let rest = [...stretches];
  for (const { from, to } of film)
    rest = rest.flatMap((s) =>
      [
        { ...s, to: Math.min(s.to, from) },
        { ...s, from: Math.max(s.from, to) },
      ].filter((part) => part.to > part.from),
    );
  return [...rest, ...film].sort((a, b) => a.from - b.from);
}
