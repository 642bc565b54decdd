import { formatRate, type Rate, rate, rateToNumber, sameRate } from '@thawline/core/time';
import { z } from 'zod';

// The interface's content policy forbids code made from text, which Zod would otherwise try on its first parse.
z.config({ jitless: true });

/** What a desk publishes of itself: it takes what is so, and nothing else. Lists that are empty allow anything. */
export const deskSpecSchema = z.object({
  /** Who it is, for people. */
  name: z.string().min(1).max(120),
  rates: z.array(z.object({ num: z.int().min(1), den: z.int().min(1) })).max(50),
  sizes: z.array(z.object({ width: z.int().min(1), height: z.int().min(1) })).max(50),
  /** File endings, without a dot. */
  endings: z.array(z.string().regex(/^[a-z0-9]{1,8}$/)).max(20),
  /** Integrated loudness in LUFS (EBU R 128), both included; null: anything. */
  loudness: z.object({ least: z.number(), most: z.number() }).nullable(),
  /** True peak in dB of full scale (ITU-R BS.1770), as it decodes; null: anything. */
  peak: z.number().nullable(),
  /** Whether pictures may hold where something moves. */
  heldPictures: z.boolean(),
  /** What frames have to hold: whole pictures, or two fields, this one first. */
  fields: z.enum(['any', 'whole', 'top', 'bottom']).default('any'),
  /** How its timecode has to count; any: it need have none. */
  timecode: z.enum(['any', 'drop', 'non-drop']),
  /** Bytes at most; null: any number. */
  bytes: z.int().min(1).nullable(),
});
export type DeskSpec = z.infer<typeof deskSpecSchema>;

/** What is known of a file when it is held against a specification; null where it is not known or there is none. */
export interface FileFacts {
  readonly name: string;
  readonly rate: Rate | null;
  readonly even: boolean;
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
  readonly loudness: number | null;
  readonly peak: number | null;
  /** Pictures that hold; null where that was not looked at. */
  readonly held: number | null;
  readonly timecode: string | null;
  /** What its frames hold: as the file says, and as its pictures show; null where that was not looked at, or nothing moves. */
  readonly fields: { readonly said: FrameKind; readonly found: FrameKind | null };
}

/** Whole pictures, or two fields, this one first. */
export type FrameKind = 'whole' | 'top' | 'bottom';

export const REASONS = ['rate', 'uneven', 'size', 'ending', 'loudness', 'peak', 'held', 'fields', 'timecode', 'bytes'] as const;

/** One thing that a desk will not take. */
export const reasonSchema = z.object({ what: z.enum(REASONS), wanted: z.string(), found: z.string() });
export type Reason = z.infer<typeof reasonSchema>;

/** Everything in which a file is not as the specification wants it. */
export function objections(spec: DeskSpec, file: FileFacts): Reason[] {
  const reasons: Reason[] = [];
  const object = (what: Reason['what'], wanted: string, found: string): void => {
    reasons.push({ what, wanted, found });
  };
  const { rate: own, loudness, peak, held, timecode } = file;
  if (spec.rates.length > 0 && !(own && spec.rates.some((r) => sameRate(rate(r.num, r.den), own))))
    object('rate', either(spec.rates.map(formatRate)), own ? formatRate(own) : 'none');
  if (!file.even) object('uneven', 'even timestamps', 'uneven ones');
  const size = `${file.width}x${file.height}`;
  const sizes = spec.sizes.map((s) => `${s.width}x${s.height}`);
  if (sizes.length > 0 && !sizes.includes(size)) object('size', either(sizes), size);
  const ending = /\.([a-z0-9]+)$/i.exec(file.name)?.[1]?.toLowerCase() ?? '';
  if (spec.endings.length > 0 && !spec.endings.includes(ending)) object('ending', either(spec.endings), ending || 'none');
  if (spec.loudness && loudness !== null && (loudness < spec.loudness.least || loudness > spec.loudness.most))
    object('loudness', `${spec.loudness.least} to ${spec.loudness.most} LUFS`, `${loudness.toFixed(1)} LUFS`);
  if (spec.peak !== null && peak !== null && peak > spec.peak)
    object('peak', `at most ${spec.peak} dBTP`, `${peak.toFixed(1)} dBTP`);
  if (!spec.heldPictures && held !== null && held > 0) object('held', 'no held pictures', `${held} of them`);
  const { said, found } = file.fields;
  // Fields of one moment are fields all the same.
  const against = found !== null && found !== spec.fields && !(found === 'whole' && spec.fields !== 'whole');
  if (spec.fields !== 'any' && said !== spec.fields) object('fields', KINDS[spec.fields], KINDS[said]);
  else if (spec.fields !== 'any' && against) object('fields', KINDS[spec.fields], `${KINDS[found]} in its pictures`);
  if (spec.timecode !== 'any' && (timecode === null || timecode.includes(';') !== (spec.timecode === 'drop')))
    object('timecode', spec.timecode === 'drop' ? 'drop-frame timecode' : 'non-drop timecode', timecode ?? 'none');
  if (spec.bytes !== null && file.bytes > spec.bytes) object('bytes', `at most ${spec.bytes} bytes`, String(file.bytes));
  return reasons;
}

const KINDS: Record<FrameKind, string> = { whole: 'whole pictures', top: 'top field first', bottom: 'bottom field first' };

const WORDS: Record<Reason['what'], string> = {
  rate: 'Rate',
  uneven: 'Timing',
  size: 'Size',
  ending: 'Form',
  loudness: 'Loudness',
  peak: 'Peak',
  held: 'Held pictures',
  fields: 'Fields',
  timecode: 'Timecode',
  bytes: 'File size',
};

/** "Rate: 25 or 50 is wanted, 24 was found." */
export function reasonSentence({ what, wanted, found }: Reason): string {
  return `${WORDS[what]}: ${wanted} wanted, ${found} found.`;
}

/** What a desk takes, in a line. */
export function specWords(spec: DeskSpec): string {
  const said = [
    ...(spec.rates.length > 0 ? [either([...spec.rates].sort((a, b) => rateToNumber(a) - rateToNumber(b)).map(formatRate))] : []),
    ...(spec.sizes.length > 0 ? [either(spec.sizes.map((s) => `${s.width}\u00d7${s.height}`))] : []),
    ...(spec.endings.length > 0 ? [either(spec.endings)] : []),
    ...(spec.fields === 'any' ? [] : [spec.fields === 'whole' ? KINDS.whole : `two fields a frame, ${spec.fields} first`]),
    ...(spec.heldPictures ? [] : ['no held pictures']),
    ...(spec.peak === null ? [] : [`true peaks to ${spec.peak} dBTP`]),
    ...(spec.loudness ? [`${spec.loudness.least} to ${spec.loudness.most} LUFS`] : []),
    ...(spec.timecode === 'any' ? [] : [spec.timecode === 'drop' ? 'drop-frame' : 'no drop-frame']),
  ];
  return said.length > 0 ? said.join(', ') : 'anything';
}

function either(words: readonly string[]): string {
  return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} or ${words.at(-1)}`;
}
