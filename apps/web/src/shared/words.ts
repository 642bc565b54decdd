import { type Rate, rateToNumber } from '@thawline/core/time';
import { type SoundWay, speedWords } from '@thawline/project';

export { count, plural, speedWords, verdictLong, verdictShort } from '@thawline/project';

/** Sentences and short forms that several views share. */

/** 0:41.2, 6:12.0, 1:02:03.0 */
export function clock(seconds: number): string {
  const tenths = Math.round(seconds * 10);
  const hours = Math.floor(tenths / 36_000);
  const minutes = Math.floor(tenths / 600) % 60;
  const rest = ((tenths % 600) / 10).toFixed(1);
  return hours > 0
    ? `${hours}:${String(minutes).padStart(2, '0')}:${rest.padStart(4, '0')}`
    : `${minutes}:${rest.padStart(4, '0')}`;
}

export function bytes(n: number): string {
  if (n < 1e6) return `${Math.round(n / 1e3)} kB`;
  return n < 1e9 ? `${(n / 1e6).toFixed(1)} MB` : `${(n / 1e9).toFixed(2)} GB`;
}

/** An exact speed of the action, in the same words everywhere. */
export function percent(speed: Rate): string {
  return speedWords(rateToNumber(speed));
}

/** What sound does at another speed, in the words of every view. */
export const SOUND_CHOICES: readonly { readonly value: SoundWay; readonly label: string }[] = [
  { value: 'along', label: 'goes with the speed' },
  { value: 'pitch', label: 'keeps its pitch' },
  { value: 'own', label: 'its own speed' },
  { value: 'off', label: 'off' },
];
