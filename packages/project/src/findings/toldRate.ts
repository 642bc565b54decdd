import type { Verdict } from '@thawline/core/truth';

/** The true rate; null where no stretch moves enough to have one. */
export function toldRate({ stretches, trueRate }: Pick<Verdict, 'stretches' | 'trueRate'>): number | null {
  return stretches.some((s) => s.trueRate !== null) ? trueRate : null;
}

/** Pictures that show something new against the one before. */
export function newPictures({ pictures, unchanged }: Pick<Verdict, 'pictures' | 'unchanged'>): number {
  return pictures - unchanged.length;
}
