import { type Rate } from '../time/index.js';
import type { EditMedia, Kept, Trouble, TroubleCode } from './edit.js';
import { type ExactSeconds, exactSecondsOf, rateFromNumber, ZERO } from './exactSeconds.js';
import { lastPart } from './names.js';

/** Reads the values of OpenTimelineIO objects and reports every one that is doubtful. */

export type Thing = Readonly<Record<string, unknown>>;

/** The newest versions that are read here, by schema. */
const KNOWN: Readonly<Record<string, number>> = {
  Timeline: 1,
  Stack: 1,
  Track: 1,
  Sequence: 1,
  Clip: 2,
  Gap: 1,
  Filler: 1,
  Transition: 1,
  SerializableCollection: 1,
  Marker: 3,
  LinearTimeWarp: 1,
  FreezeFrame: 1,
  TimeEffect: 1,
  Effect: 1,
  ExternalReference: 1,
  MissingReference: 1,
  GeneratorReference: 1,
  ImageSequenceReference: 1,
};

/** Levels of objects and lists within each other: an edit nested as deep as is read here has less than a hundred. */
const LEVELS_MAX = 250;

const DEFAULT_MEDIA = 'DEFAULT_MEDIA';

export const READ_OF_CLIPS = [
  'OTIO_SCHEMA',
  'name',
  'source_range',
  'media_reference',
  'media_references',
  'active_media_reference_key',
  'effects',
  'enabled',
];

export interface Range {
  readonly start: ExactSeconds;
  readonly length: ExactSeconds;
  /** Frames a second of the length's unit. */
  readonly rate: Rate;
}

export function isThing(value: unknown): value is Thing {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

export function schemaOf(thing: unknown): string {
  return isThing(thing) ? (String(thing.OTIO_SCHEMA ?? '').split('.')[0] ?? '') : '';
}

export function nameOf(thing: unknown): string {
  if (!isThing(thing)) return typeof thing;
  const name = typeof thing.name === 'string' ? thing.name.slice(0, 120) : '';
  return name || schemaOf(thing) || 'something without a name';
}

export function listOf(value: unknown): readonly unknown[] {
  return Array.isArray(value) ? value : [];
}

/** Everything but the named fields; null when nothing is left. */
export function rest(thing: Thing, ...taken: string[]): Kept {
  const left = Object.entries(thing).filter(([key, value]) => !taken.includes(key) && !isEmpty(value));
  return left.length > 0 ? Object.fromEntries(left) : null;
}

export function isEmpty(value: unknown): boolean {
  if (value === null) return true;
  if (Array.isArray(value)) return value.length === 0;
  return isThing(value) && Object.keys(value).length === 0;
}

/** Reads values; reports an invalid one with its path and continues with the next. */
export class OtioValues {
  readonly troubles: Trouble[] = [];

  tell(code: TroubleCode, place: string, detail: string): void {
    if (this.troubles.length < 1000) this.troubles.push({ code, place, detail });
  }

  /** undefined when it is not JSON. Some programs write NaN and Infinity, which JSON has no words for: they count as 0. */
  parse(text: string): unknown {
    const clean = text.replace(/^\uFEFF/, '');
    try {
      return this.pruned(JSON.parse(clean));
    } catch (error) {
      const patched = clean.replace(/([:[,]\s*)(-?(?:NaN|Infinity|inf|nan))(?=\s*[,\]}])/g, '$1"$2"');
      if (patched !== clean) {
        try {
          return this.pruned(JSON.parse(patched));
        } catch {
          // Told below, as the first reading found it.
        }
      }
      this.tell('not-json', '', error instanceof Error ? error.message.slice(0, 160) : '');
      return undefined;
    }
  }

  /** Drops what is nested too deep: a recursive walk would overflow the stack. */
  private pruned(root: unknown): unknown {
    const waiting: { readonly value: object; readonly depth: number }[] = [];
    const look = (value: unknown, depth: number): void => {
      if (typeof value === 'object' && value !== null) waiting.push({ value, depth });
    };
    let left = 0;
    look(root, 1);
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const { value, depth } = next;
      for (const [key, inner] of Object.entries(value)) {
        if (depth < LEVELS_MAX) look(inner, depth + 1);
        else if (typeof inner === 'object' && inner !== null) {
          (value as Record<string, unknown>)[key] = null;
          left++;
        }
      }
    }
    if (left > 0) this.tell('deep-value', '', String(LEVELS_MAX));
    return root;
  }

  protected checkVersion(thing: Thing, place: string): void {
    const [schema = '', version = ''] = String(thing.OTIO_SCHEMA ?? '').split('.');
    const known = KNOWN[schema];
    if (known !== undefined && Number(version) > known) this.tell('newer-schema', place, `${schema}.${version}`);
  }

  protected reference(clip: Thing): Thing | null {
    if (isThing(clip.media_references)) {
      const key = String(clip.active_media_reference_key ?? DEFAULT_MEDIA);
      const found = clip.media_references[key] ?? Object.values(clip.media_references)[0];
      return isThing(found) ? found : null;
    }
    return isThing(clip.media_reference) ? clip.media_reference : null;
  }

  /** Media references beside the active one are given back. */
  protected otherReferences(clip: Thing): object {
    const key = String(clip.active_media_reference_key ?? DEFAULT_MEDIA);
    const others = isThing(clip.media_references) ? Object.entries(clip.media_references).filter(([name]) => name !== key) : [];
    return {
      ...(others.length > 0 ? { media_references: Object.fromEntries(others) } : {}),
      ...(key === DEFAULT_MEDIA ? {} : { active_media_reference_key: key }),
    };
  }

  protected available(clip: Thing, place: string): Range | null {
    const reference = this.reference(clip);
    return reference?.available_range ? this.range(reference.available_range, `${place}, available_range`) : null;
  }

  protected media(clip: Thing, available: Range | null): EditMedia {
    const reference = this.reference(clip);
    const url = reference && (typeof reference.target_url === 'string' ? reference.target_url : sequenceUrl(reference));
    const range = isThing(clip.source_range) ? clip.source_range : null;
    const told = isThing(range?.start_time) ? rateFromNumber(range.start_time.rate) : null;
    const named = url ? lastPart(url) : (reference && typeof reference.name === 'string' && reference.name) || '';
    const sequence = reference && schemaOf(reference) === 'ImageSequenceReference' ? rateFromNumber(reference.rate) : null;
    return {
      name: named || nameOf(clip),
      url: url ?? null,
      rate: available?.rate ?? sequence ?? told,
      start: available?.start ?? null,
      seconds: available && available.length.n > 0n ? available.length : null,
      kept:
        reference &&
        rest(
          reference,
          'target_url',
          'available_range',
          ...(schemaOf(reference) === 'ExternalReference' ? ['OTIO_SCHEMA', 'name'] : []),
        ),
    };
  }

  protected range(value: unknown, place: string): Range | null {
    if (!isThing(value)) return null;
    const start = this.time(value.start_time, `${place}, start_time`);
    const length = this.time(value.duration, `${place}, duration`);
    if (!length) return null;
    return { start: start?.moment ?? ZERO, length: length.moment, rate: start?.rate ?? length.rate };
  }

  protected time(value: unknown, place: string): { moment: ExactSeconds; rate: Rate } | null {
    if (!isThing(value)) return null;
    const r = rateFromNumber(value.rate);
    if (!r) {
      this.tell('odd-rate', place, String(value.rate).slice(0, 30));
      return null;
    }
    return { moment: exactSecondsOf(this.number(value.value, place, 0), r), rate: r };
  }

  protected number(value: unknown, place: string, otherwise: number): number {
    if (typeof value === 'number' && Number.isFinite(value) && Math.abs(value) < 1e12) return value;
    this.tell('not-a-number', place, String(value).slice(0, 30));
    return otherwise;
  }
}

function sequenceUrl(reference: Thing): string | null {
  if (schemaOf(reference) !== 'ImageSequenceReference') return null;
  const { target_url_base: base = '', name_prefix: prefix = '', name_suffix: suffix = '' } = reference;
  const number = String(Number(reference.start_frame) || 0).padStart(Number(reference.frame_zero_padding) || 0, '0');
  return `${String(base)}${String(base).endsWith('/') || base === '' ? '' : '/'}${String(prefix)}${number}${String(suffix)}`;
}
