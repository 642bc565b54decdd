import { allowsFields, FIELD_ORDERS } from '../fields/index.js';
import { allowsDropFrame, type Rate, rate } from '../time/index.js';
import {
  CLIPS_MAX,
  DEPTH_MAX,
  type Edit,
  type EditClip,
  type EditLane,
  type EditMark,
  type EditMedia,
  FRAMES_MAX,
  type Kept,
  type Opened,
} from './edit.js';
import {
  bounded,
  type ExactSeconds,
  exactSecondsOf,
  frameNear,
  minus,
  plus,
  rateFromNumber,
  scaled,
  secondsIn,
  speedFromNumber,
  ZERO,
} from './exactSeconds.js';
import { isEmpty, isThing, listOf, nameOf, OtioValues, READ_OF_CLIPS, rest, schemaOf, type Thing } from './otioValues.js';

/**
 * Reads OpenTimelineIO JSON (opentimelineio.readthedocs.io, "File Bundles and Schemas"): timelines, stacks, tracks, gaps, clips,
 * linear time effects, freeze frames, markers, nesting and media references. Times are exact: a track's lengths are added
 * as fractions and each cut goes to its nearest frame, so that nothing drifts. What is not understood is kept.
 */
export function readOtio(text: string): Opened {
  const reader = new Reader();
  const root = reader.parse(text);
  if (root === undefined) return { edits: [], troubles: reader.troubles };
  let edits: Edit[];
  try {
    edits = reader.roots(root);
  } catch (error) {
    // Nested so deep that the stack ends.
    if (!(error instanceof RangeError)) throw error;
    return { edits: [], troubles: [{ code: 'too-deep', place: '', detail: nameOf(root) }] };
  }
  if (edits.length === 0 && reader.troubles.length === 0) reader.tell('not-an-edit', '', nameOf(root));
  return { edits, troubles: reader.troubles };
}

/** A gap with fields of its own, or a transition: written again if its place has not changed. */
interface Between {
  readonly what: 'gap' | 'transition';
  readonly start: ExactSeconds;
  readonly end: ExactSeconds;
  readonly kept: Thing;
}

interface Item {
  readonly thing: Thing;
  readonly place: string;
  readonly start: ExactSeconds;
  readonly end: ExactSeconds;
  /** The transition that it comes in by, where that is a dissolve. */
  readonly dissolve?: Thing;
}

class Reader extends OtioValues {
  private clips = 0;
  /** A length was asked of something nested too deep to be looked at. */
  private beyond = false;

  roots(root: unknown): Edit[] {
    if (!isThing(root)) return [];
    this.checkVersion(root, '');
    const schema = schemaOf(root);
    if (schema === 'Timeline') return [this.timeline(root, nameOf(root), 0)];
    if (schema === 'Stack' || schema === 'Track' || schema === 'Sequence')
      return [this.stacked(root, { name: nameOf(root) }, nameOf(root), 0)];
    if (schema === 'SerializableCollection') return listOf(root.children).flatMap((child) => this.roots(child));
    return [];
  }

  private timeline(thing: Thing, place: string, depth: number): Edit {
    const tracks = isThing(thing.tracks) ? thing.tracks : {};
    return this.stacked(tracks, thing, place, depth);
  }

  /** A stack (or one track) as an edit. `owner` bears the name, the start timecode and what is kept. */
  private stacked(stack: Thing, owner: Thing, place: string, depth: number): Edit {
    const tracks = schemaOf(stack) === 'Track' || schemaOf(stack) === 'Sequence' ? [stack] : listOf(stack.children);
    const global = this.time(owner.global_start_time, `${place}, global_start_time`);
    const base = global?.rate ?? mostUsedRate(tracks) ?? this.noRate(place);
    const lanes: EditLane[] = [];
    const marks: EditMark[] = this.marks(stack, base, place);
    for (const [index, track] of tracks.entries()) {
      if (!isThing(track)) {
        this.tell('unknown-object', place, typeof track);
        continue;
      }
      const where = `${place} / ${nameOf(track)} (track ${index + 1})`;
      // A clip or a stack that lies straight in the stack is a track of one item.
      const alone = !['Track', 'Sequence'].includes(schemaOf(track));
      const whole: Thing = alone ? { children: [track], kind: 'Video', name: '' } : track;
      this.checkVersion(track, where);
      const kind = /audio/i.test(String(whole.kind ?? '')) ? ('sound' as const) : ('picture' as const);
      const { items, between } = this.items(whole, where, kind === 'picture');
      const off = whole.enabled === false;
      if (off) this.tell('switched-off', where, nameOf(track));
      lanes.push({
        kind,
        name: typeof whole.name === 'string' ? whole.name : '',
        clips: this.clipsOf(items, base, kind, where, depth),
        ...(off ? { off } : {}),
        kept: withBetween(
          rest(whole, 'OTIO_SCHEMA', 'name', 'kind', 'children', 'markers', 'source_range', 'enabled'),
          between,
          base,
        ),
      });
      marks.push(...this.marks(whole, base, where));
    }
    const own = isThing(owner.metadata) && isThing(owner.metadata.thawline) ? owner.metadata.thawline : {};
    const kept = rest(
      owner,
      'OTIO_SCHEMA',
      'name',
      'tracks',
      'global_start_time',
      ...(owner === stack ? ['children', 'markers', 'source_range'] : []),
    );
    const stackKept =
      owner === stack ? null : rest(stack, 'OTIO_SCHEMA', 'name', 'children', 'markers', 'source_range', 'enabled', 'color');
    return {
      name: nameOf(owner),
      rate: base,
      dropFrame: own.dropFrame === true && allowsDropFrame(base),
      startFrame: global ? Math.max(0, frameNear(global.moment, base)) : 0,
      ...fieldsOf(own.fields, base),
      ...(typeof own.colour === 'string' ? { colour: own.colour } : {}),
      size: sizeOf(own),
      lanes: [...lanes.filter((l) => l.kind === 'picture'), ...lanes.filter((l) => l.kind === 'sound')],
      marks: marks.sort((a, b) => a.frame - b.frame),
      kept: stackKept ? { ...kept, tracks: stackKept } : kept,
    };
  }

  private noRate(place: string): Rate {
    this.tell('no-rate', place, '25');
    return rate(25);
  }

  /** The items of a track with where each begins and ends, gaps left out. A track's own range trims it. */
  private items(track: Thing, place: string, picture: boolean): { readonly items: Item[]; readonly between: Between[] } {
    const trim = track.source_range === null || track.source_range === undefined ? null : this.range(track.source_range, place);
    const found: Item[] = [];
    const between: Between[] = [];
    let at = trim ? minus(ZERO, trim.start) : ZERO;
    let rounded = 0;
    /** A dissolve that the next item comes in by. */
    let coming: { readonly thing: Thing; readonly where: string } | null = null;
    const cut = (): void => {
      if (!coming) return;
      this.tell('transition', coming.where, `A ${String(coming.thing.transition_type ?? 'transition').slice(0, 60)}`);
      between.push({ what: 'transition', start: at, end: at, kept: coming.thing });
      coming = null;
    };
    for (const [index, child] of listOf(track.children).entries()) {
      const where = `${place} / ${nameOf(child)} (${index + 1})`;
      if (!isThing(child)) {
        this.tell('unknown-object', where, typeof child);
        continue;
      }
      const schema = schemaOf(child);
      this.checkVersion(child, where);
      if (schema === 'Transition') {
        cut();
        coming = { thing: child, where };
        if (!picture || !/dissolve/i.test(String(child.transition_type ?? '')) || found.at(-1)?.end !== at) cut();
        continue;
      }
      this.beyond = false;
      const length = this.lengthOf(child, where);
      if (this.beyond) {
        this.tell('too-deep', where, nameOf(child));
        continue;
      }
      if (!length) {
        this.tell('no-length', where, nameOf(child));
        continue;
      }
      if (length.n < 0n) {
        this.tell('negative-length', where, nameOf(child));
        continue;
      }
      const exact = plus(at, length);
      const end = bounded(exact);
      if (end !== exact) rounded++;
      if (['Clip', 'Stack', 'Track', 'Sequence', 'Timeline'].includes(schema)) {
        found.push({ thing: child, place: where, start: at, end, ...(coming ? { dissolve: coming.thing } : {}) });
        coming = null;
      } else if (schema === 'Gap' || schema === 'Filler') {
        cut();
        const kept = rest(child, 'OTIO_SCHEMA', 'source_range');
        const says = Object.entries(kept ?? {}).some(
          ([key, value]) => !(key === 'name' && value === '') && !(key === 'enabled' && value === true),
        );
        if (kept && says) between.push({ what: 'gap', start: at, end, kept });
      } else {
        cut();
        this.tell('unknown-object', where, String(child.OTIO_SCHEMA ?? nameOf(child)).slice(0, 60));
      }
      at = end;
    }
    cut();
    if (rounded > 0) this.tell('rounded', place, String(rounded));
    return { items: found, between };
  }

  private lengthOf(item: Thing, place: string, depth = 0): ExactSeconds | null {
    if (depth > 2 * DEPTH_MAX) {
      this.beyond = true;
      return ZERO;
    }
    const own = item.source_range ? this.range(item.source_range, place) : null;
    if (own) return own.length;
    const schema = schemaOf(item);
    if (schema === 'Clip') return this.available(item, place)?.length ?? null;
    if (schema === 'Gap' || schema === 'Filler') return ZERO;
    const children = schema === 'Timeline' && isThing(item.tracks) ? listOf(item.tracks.children) : listOf(item.children);
    const lengths = children
      .map((child) => (isThing(child) ? this.quietly(() => this.lengthOf(child, place, depth + 1)) : null))
      .filter((m) => m !== null);
    if (schema === 'Track' || schema === 'Sequence') return lengths.reduce((sum, length) => bounded(plus(sum, length)), ZERO);
    return lengths.reduce((longest, m) => (secondsIn(m) > secondsIn(longest) ? m : longest), ZERO);
  }

  /** Reads without reporting troubles: those of nested items are reported when the items themselves are read. */
  private quietly<T>(read: () => T): T {
    const before = this.troubles.length;
    const value = read();
    this.troubles.length = before;
    return value;
  }

  private clipsOf(items: readonly Item[], base: Rate, kind: 'picture' | 'sound', lane: string, depth: number): EditClip[] {
    const clips: EditClip[] = [];
    let end = 0;
    for (const { thing, place, dissolve, ...item } of items) {
      if (++this.clips > CLIPS_MAX) {
        if (this.clips === CLIPS_MAX + 1) this.tell('too-many', lane, CLIPS_MAX.toLocaleString('en'));
        break;
      }
      const start = Math.max(end, frameNear(item.start, base));
      const to = frameNear(item.end, base);
      if (to <= start) {
        if (item.end.n * item.start.d !== item.start.n * item.end.d)
          this.tell('negative-length', place, `${nameOf(thing)} (under a frame)`);
        continue;
      }
      if (to > FRAMES_MAX) {
        this.tell('too-far', place, nameOf(thing));
        continue;
      }
      const clip = this.clip(thing, place, { start, length: to - start, base }, kind, depth);
      if (!clip) continue;
      // A track's own range may begin within a clip.
      const hidden =
        item.start.n < 0n && clip.speed && !clip.backward
          ? scaled(exactSecondsOf(-frameNear(item.start, base), base), clip.speed)
          : ZERO;
      const over = dissolve && clips.length > 0 && end === start ? this.dissolveOf(dissolve, place, base) : null;
      clips.push({ ...clip, from: plus(clip.from, hidden), ...(over ? { dissolve: over } : {}) });
      end = to;
    }
    return clips;
  }

  /** How long a dissolve lasts on both sides of its cut; null where it lasts for no frame. */
  private dissolveOf(thing: Thing, place: string, base: Rate): NonNullable<EditClip['dissolve']> | null {
    const frames = (value: unknown): number => Math.max(0, frameNear(this.time(value, place)?.moment ?? ZERO, base));
    const [before, after] = [frames(thing.in_offset), frames(thing.out_offset)];
    if (before + after === 0 || before + after > FRAMES_MAX) {
      this.tell('transition', place, 'A dissolve');
      return null;
    }
    return { before, after, kept: rest(thing, 'OTIO_SCHEMA', 'in_offset', 'out_offset') };
  }

  private clip(
    thing: Thing,
    place: string,
    { start, length, base }: { readonly start: number; readonly length: number; readonly base: Rate },
    kind: 'picture' | 'sound',
    depth: number,
  ): EditClip | null {
    const range = thing.source_range ? this.range(thing.source_range, place) : null;
    const effects = listOf(thing.effects);
    const { speed, backward, left } = this.speed(effects, place);
    const placed = {
      name: nameOf(thing),
      start,
      length,
      speed,
      ...(backward ? { backward } : {}),
      ...(thing.enabled === false ? { off: true } : {}),
    };
    if (schemaOf(thing) !== 'Clip') {
      if (depth >= DEPTH_MAX) {
        this.tell('too-deep', place, nameOf(thing));
        return null;
      }
      // Its range is the clip's: within, all of it is there.
      const whole = { ...thing, source_range: null };
      const nested =
        schemaOf(thing) === 'Timeline' ? this.timeline(whole, place, depth + 1) : this.stacked(whole, whole, place, depth + 1);
      const kept = left.length > 0 ? { effects: left } : null;
      return { ...placed, media: { nested: kind === 'sound' ? asSound(nested) : nested }, from: range?.start ?? ZERO, kept };
    }
    const available = this.available(thing, place);
    const media = this.media(thing, available);
    const known = rest(thing, ...READ_OF_CLIPS, 'markers');
    if (placed.off) this.tell('switched-off', place, nameOf(thing));
    const more = { ...known, ...this.otherReferences(thing), ...(left.length > 0 ? { effects: left } : {}) };
    const from = range?.start ?? available?.start ?? ZERO;
    const marks = this.clipMarks(thing, { ...placed, from }, base, place);
    return { ...placed, media, from, ...(marks.length > 0 ? { marks } : {}), kept: isEmpty(more) ? null : more };
  }

  /** The product of all time effects; what is no time effect is left. */
  private speed(effects: readonly unknown[], place: string): { speed: Rate | null; backward: boolean; left: unknown[] } {
    let factor = 1;
    const left: unknown[] = [];
    for (const effect of effects) {
      const schema = schemaOf(effect);
      if (isThing(effect) && schema === 'FreezeFrame') factor = 0;
      else if (isThing(effect) && schema === 'LinearTimeWarp')
        factor *= this.number(effect.time_scalar, `${place}, time_scalar`, 1);
      else {
        left.push(effect);
        this.tell('unknown-effect', place, `The effect ${nameOf(effect)}`);
      }
    }
    return { speed: factor === 0 ? null : (speedFromNumber(Math.abs(factor)) ?? rate(1)), backward: factor < 0, left };
  }

  /**
   * Marks on a clip stand at moments of its media; here at the frames of the clip that show these. The moment as it was written is kept
   * beside, for as long as the mark stands where it came.
   */
  private clipMarks(
    thing: Thing,
    { from, speed, backward, length }: Pick<EditClip, 'from' | 'speed' | 'length' | 'backward'>,
    base: Rate,
    place: string,
  ): EditMark[] {
    if (!speed) return [];
    return listOf(thing.markers).flatMap((marker, index) => {
      const range = isThing(marker) ? this.range(marker.marked_range, `${place}, mark ${index + 1}`) : null;
      if (!range || !isThing(marker)) return [];
      const real = { num: speed.den, den: speed.num };
      const at = frameNear(scaled(minus(range.start, from), real), base);
      const frame = backward ? length - 1 - at : at;
      const kept = {
        color: null,
        ...rest(marker, 'OTIO_SCHEMA', 'name', 'marked_range'),
        onClip: { frame, range: marker.marked_range },
      };
      const name = typeof marker.name === 'string' ? marker.name : '';
      return [{ frame, length: Math.max(0, frameNear(scaled(range.length, real), base)), name, kept }];
    });
  }

  private marks(thing: Thing, base: Rate, place: string): EditMark[] {
    return listOf(thing.markers).flatMap((marker, index) => {
      if (!isThing(marker)) return [];
      const range = this.range(marker.marked_range, `${place}, mark ${index + 1}`);
      if (!range || range.start.n < 0n) return [];
      const frame = frameNear(range.start, base);
      const end = frameNear(plus(range.start, range.length), base);
      if (end > FRAMES_MAX) return [];
      return [
        {
          frame,
          length: Math.max(0, end - frame),
          name: typeof marker.name === 'string' ? marker.name : '',
          // A colour of none is one that a program did not set: it stays so.
          kept: { color: null, ...rest(marker, 'OTIO_SCHEMA', 'name', 'marked_range') },
        },
      ];
    });
  }
}

/** What a track keeps, with its gaps and transitions that say something, by frame. */
function withBetween(kept: Kept, between: readonly Between[], base: Rate): Kept {
  const of = (what: Between['what']) =>
    between
      .filter((b) => b.what === what)
      .map(({ start, end, kept: own }) => ({ from: frameNear(start, base), to: frameNear(end, base), kept: own }));
  const [gaps, transitions] = [of('gap'), of('transition')];
  const more = { ...kept, ...(gaps.length > 0 ? { gaps } : {}), ...(transitions.length > 0 ? { transitions } : {}) };
  return Object.keys(more).length > 0 ? more : null;
}

/** The rate that most clips and gaps of the tracks tell their length in. */
function mostUsedRate(tracks: readonly unknown[]): Rate | null {
  const counts = new Map<string, { rate: Rate; count: number }>();
  const look = (thing: unknown, depth: number): void => {
    if (!isThing(thing) || depth > DEPTH_MAX) return;
    const duration = isThing(thing.source_range) && isThing(thing.source_range.duration) ? thing.source_range.duration : null;
    const r = duration && rateFromNumber(duration.rate);
    if (r) {
      const key = `${r.num}/${r.den}`;
      counts.set(key, { rate: r, count: (counts.get(key)?.count ?? 0) + 1 });
    }
    for (const child of listOf(thing.children)) look(child, depth + 1);
  };
  for (const track of tracks) look(track, 0);
  return [...counts.values()].sort((a, b) => b.count - a.count)[0]?.rate ?? null;
}

/** Of something nested on a sound lane only its sound is heard, as of anything there. */
function asSound(edit: Edit): Edit {
  return edit.lanes.every((l) => l.kind === 'picture')
    ? { ...edit, lanes: edit.lanes.map((l) => ({ ...l, kind: 'sound' as const })) }
    : edit;
}

/** A claim that no timeline of this rate can bear is passed over. */
function fieldsOf(said: unknown, base: Rate): Pick<Edit, 'fields'> {
  const fields = FIELD_ORDERS.find((order) => order === said);
  return fields && allowsFields(base) ? { fields } : {};
}

function sizeOf(own: Thing): Edit['size'] {
  const { width, height } = own;
  return typeof width === 'number' && typeof height === 'number' ? { width, height } : null;
}

/** Identifies media of an edit: the same key for the same file, whichever clip names it. */
export function mediaKey({ name, url, start, rate: own }: EditMedia): string {
  return JSON.stringify([name, url, start && [String(start.n), String(start.d)], own && [own.num, own.den]]);
}
