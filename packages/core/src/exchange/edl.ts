import { allowsDropFrame, parseTimecode, type Rate, rate } from '../time/index.js';
import {
  CLIPS_MAX,
  type Edit,
  type EditClip,
  type EditMark,
  type EditMedia,
  FRAMES_MAX,
  type Opened,
  type Trouble,
  type TroubleCode,
} from './edit.js';
import { exactSecondsOf } from './exactSeconds.js';
import { labelledRun, type SourceLabels } from './labels.js';
import { lastPart } from './names.js';

/**
 * Reads a CMX 3600 edit decision list (SMPTE 258M is its public description): events with source and record timecode,
 * FCM drop and non-drop, M2 speed lines, reel names, clip name and locator comments. The list tells no rate: it is given. Source timecode
 * is handed on as it is written: labels.ts tells which pictures it means, where the source is known. Wipes and keys are opened as cuts.
 */
export function readEdl(text: string, timeline: Rate): Opened {
  return new EdlReader(timeline).read(text);
}

interface Event {
  readonly line: number;
  readonly number: string;
  readonly reel: string;
  readonly channels: string;
  readonly transition: string;
  /** Frames over which a dissolve goes; 0 for a cut. */
  readonly over: number;
  /** As they are written. */
  readonly source: readonly [string, string];
  /** How the list counted there. */
  readonly dropFrame: boolean;
  readonly record: readonly [number, number];
  /** Pictures a second by its M2 line. */
  speed: number | null;
  name: string | null;
  file: string | null;
  readonly notes: string[];
  readonly marks: { frame: number; name: string; color: string | null }[];
}

const EVENT =
  /^\s*(\d{1,6}[A-Z]?)\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|K\s?[BO]?)\s*(\d{1,4})?\s+([\d:;.]{8,13})\s+([\d:;.]{8,13})\s+([\d:;.]{8,13})\s+([\d:;.]{8,13})\s*$/i;

/** Picture and the numbers of the sound channels that an event's third column names; null when it names nothing known. */
function channelsOf(text: string): { picture: boolean; sounds: number[] } | null {
  const upper = text.toUpperCase();
  if (upper === 'NONE') return { picture: false, sounds: [] };
  if (upper === 'B') return { picture: true, sounds: [1] };
  const found = { picture: false, sounds: [] as number[] };
  for (const part of upper.split('/')) {
    const v = /^V\d?$/.exec(part);
    const a = /^A([1-9])?$/.exec(part);
    const joined = /^(AA)?(V)?$/.exec(part);
    if (v) found.picture = true;
    else if (a) found.sounds.push(Number(a[1] ?? 1));
    else if (joined && part !== '') {
      if (joined[1]) found.sounds.push(1, 2);
      if (joined[2]) found.picture = true;
    } else return null;
  }
  return found;
}

class EdlReader {
  private readonly troubles: Trouble[] = [];
  private dropFrame: boolean | null = null;
  private first: boolean | null = null;
  private title = '';

  constructor(private readonly timeline: Rate) {}

  private tell(code: TroubleCode, line: number, detail: string): void {
    if (this.troubles.length < 1000) this.troubles.push({ code, place: `line ${line}`, detail: detail.slice(0, 120) });
  }

  read(text: string): Opened {
    const events: Event[] = [];
    const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/);
    lines.forEach((raw, index) => {
      const line = raw.trimEnd();
      if (line.trim() === '') return;
      this.line(line, index + 1, events);
    });
    if (events.length === 0) {
      this.troubles.push({ code: 'not-an-edit', place: '', detail: 'not one event could be read' });
      return { edits: [], troubles: this.troubles };
    }
    return { edits: [this.edit(events)], troubles: this.troubles };
  }

  private line(line: string, number: number, events: Event[]): void {
    const title = /^\s*TITLE\s*:\s*(.*)$/i.exec(line);
    if (title) {
      this.title ||= (title[1] ?? '').trim();
      return;
    }
    const mode = /^\s*FCM\s*:\s*(.*)$/i.exec(line);
    if (mode) {
      this.mode(mode[1] ?? '', number);
      return;
    }
    const last = events[events.length - 1];
    if (/^\s*\d/.test(line)) {
      this.event(line, number, events);
      return;
    }
    if (/^\s*M2\b/i.test(line)) {
      this.speed(line, number, last);
      return;
    }
    // A comment, or a line of another program's: those never stop the reading.
    const comment = /^\s*(?:\*|>>>|;)?\s*(.*)$/.exec(line)?.[1] ?? '';
    if (last) this.comment(comment, number, last);
  }

  private mode(text: string, line: number): void {
    const drop = /^\s*DROP/i.test(text);
    if (!drop && !/^\s*NON/i.test(text)) {
      this.tell('bad-event', line, `FCM: ${text}`);
      return;
    }
    if (drop && !allowsDropFrame(this.timeline)) {
      this.tell('bad-timecode', line, 'Drop-frame');
      return;
    }
    this.dropFrame = drop;
    this.first ??= drop;
    if (drop !== this.first) this.tell('mixed-drop-frame', line, this.first ? 'drop-frame' : 'non-drop');
  }

  private event(line: string, number: number, events: Event[]): void {
    const match = EVENT.exec(line);
    if (!match) {
      this.tell('bad-event', number, line.trim());
      return;
    }
    const [, id = '', reel = '', channels = '', transition = '', over = '', ...codes] = match;
    if (!channelsOf(channels)) {
      this.tell('bad-event', number, `${channels} names no channel`);
      return;
    }
    const [from = '', to = '', ...record] = codes;
    const frames = record.map((code) => this.frame(code));
    const bad = [...[from, to].filter((code) => !isLabel(code)), ...record.filter((_, i) => frames[i] === null)][0];
    if (bad !== undefined) {
      this.tell('bad-timecode', number, bad);
      return;
    }
    const [start = 0, end = 0] = frames as number[];
    // The first half of a dissolve is an event of no length that only names where it comes from.
    if (end === start && to === from) return;
    if (end <= start) {
      this.tell('bad-event', number, 'it is recorded for no time');
      return;
    }
    if (events.length >= CLIPS_MAX) return;
    const dissolves = /^D$/i.test(transition) && Number(over) > 0;
    if (!dissolves && !/^C$/i.test(transition))
      this.tell('transition', number, /^D$/i.test(transition) ? 'A dissolve' : 'A wipe or key');
    events.push({
      line: number,
      number: id,
      reel,
      channels,
      transition,
      over: dissolves ? Number(over) : 0,
      source: [from, to],
      dropFrame: this.dropFrame ?? false,
      record: [start, end],
      speed: null,
      name: null,
      file: null,
      notes: [],
      marks: [],
    });
  }

  /** ";" or "." before the frames is drop-frame; otherwise as the last FCM line said. */
  private frame(code: string): number | null {
    const drop = allowsDropFrame(this.timeline) && (/[;.]\d+$/.test(code) || (this.dropFrame ?? false));
    return parseTimecode(code.replace(/[;.]/g, ':'), this.timeline, { dropFrame: drop });
  }

  private speed(line: string, number: number, last: Event | undefined): void {
    const match = /^\s*M2\s+(\S+)\s+(-?\d+(?:\.\d+)?)/i.exec(line);
    if (!last) {
      this.tell('no-event', number, line.trim());
      return;
    }
    if (!match) {
      this.tell('bad-event', number, line.trim());
      return;
    }
    last.speed = Number(match[2]);
  }

  private comment(text: string, number: number, last: Event): void {
    const name = /^(FROM|TO) CLIP NAME\s*:\s*(.+)$/i.exec(text);
    const file = /^SOURCE FILE(?: NAME)?\s*:\s*(.+)$/i.exec(text);
    const mark = /^LOC\s*:\s*([\d:;.]+)\s+(\S+)?\s*(.*)$/i.exec(text);
    const into = !/^C$/i.test(last.transition);
    if (name && (name[1]?.toUpperCase() === 'TO') === into) last.name = (name[2] ?? '').trim();
    else if (name) last.name ??= (name[2] ?? '').trim();
    else if (file) last.file = (file[1] ?? '').trim();
    else if (mark) {
      const frame = this.frame(mark[1] ?? '');
      if (frame === null) this.tell('bad-timecode', number, mark[1] ?? '');
      else
        last.marks.push({
          frame,
          name: (mark[3] ?? '').trim() || (mark[2] ?? ''),
          color: (mark[3] ?? '').trim() === '' ? null : (mark[2] ?? null),
        });
    } else if (last.notes.length < 100) last.notes.push(text.slice(0, 500));
  }

  private edit(events: readonly Event[]): Edit {
    const startFrame = Math.min(...events.map((e) => e.record[0]));
    // Programmes begin on the hour as a rule: what lies before the first event is then a gap, not another start.
    const hour = this.hourBefore(startFrame);
    const lanes = { picture: [] as EditClip[][], sound: [] as EditClip[][] };
    const marks: EditMark[] = [];
    for (const event of events) {
      for (const mark of event.marks)
        if (mark.frame >= hour)
          marks.push({ frame: mark.frame - hour, length: 0, name: mark.name, kept: mark.color ? { color: mark.color } : null });
      // Black is what a timeline shows where nothing is.
      if (/^(BL|BLACK)$/i.test(event.reel)) continue;
      if (event.record[1] - hour > FRAMES_MAX) {
        this.tell('too-far', event.line, `Event ${event.number}`);
        continue;
      }
      const clip = this.clip(event, hour);
      const channels = channelsOf(event.channels) ?? { picture: false, sounds: [] };
      const dissolve = { before: 0, after: Math.min(event.over, clip.length), kept: null };
      if (channels.picture) this.put(lanes.picture, 0, event.over > 0 ? { ...clip, dissolve } : clip, event);
      if (event.over > 0 && channels.sounds.length > 0) this.tell('transition', event.line, 'A dissolve of sound');
      for (const sound of channels.sounds) this.put(lanes.sound, sound - 1, clip, event);
    }
    lanes.picture = lanes.picture.map((clips) => this.comingOver(clips));
    const named = (kind: 'picture' | 'sound') =>
      lanes[kind].map((clips, i) => ({
        kind,
        name: `${kind === 'picture' ? 'Picture' : 'Sound'} ${i + 1}`,
        clips: clips ?? [],
        kept: null,
      }));
    return {
      name: this.title || 'Edit list',
      rate: this.timeline,
      dropFrame: this.first ?? false,
      startFrame: hour,
      size: null,
      lanes: [...named('picture'), ...named('sound')],
      marks: marks.sort((a, b) => a.frame - b.frame),
      kept: null,
    };
  }

  /** A dissolve goes from the clip that ends there; from black, or over what lies beneath, it is a cut. */
  private comingOver(clips: readonly EditClip[]): EditClip[] {
    return clips.map((clip, i) => {
      const before = clips[i - 1];
      if (!clip.dissolve || (before && before.start + before.length === clip.start)) return clip;
      this.tell('transition', Number(/\d+/.exec(clip.place ?? '')?.[0] ?? 0), 'A dissolve from black');
      const { dissolve: _, ...rest } = clip;
      return rest;
    });
  }

  private hourBefore(frame: number): number {
    const hours = Math.floor((frame * this.timeline.den) / (this.timeline.num * 3600));
    const options = { dropFrame: this.first ?? false };
    for (const hour of [hours + 1, hours]) {
      const at = parseTimecode(`${hour}:00:00:00`, this.timeline, options) ?? 0;
      if (at <= frame) return at;
    }
    return 0;
  }

  /** On the wanted lane, or where that is taken on one above it. */
  private put(lanes: EditClip[][], wanted: number, clip: EditClip, event: Event): void {
    for (let lane = wanted; ; lane++) {
      while (lanes.length <= lane) lanes.push([]);
      const clips = lanes[lane] as EditClip[];
      const at = lowerBound(clips, clip.start);
      const before = clips[at - 1];
      const after = clips[at];
      if ((!before || before.start + before.length <= clip.start) && (!after || clip.start + clip.length <= after.start)) {
        clips.splice(at, 0, clip);
        return;
      }
      if (lane === wanted) this.tell('overlap', event.line, `Event ${event.number}`);
    }
  }

  private clip(event: Event, hour: number): EditClip {
    const { source, record, speed } = event;
    const name = event.name ?? event.file ?? event.reel;
    const media: EditMedia = {
      name: event.file ? lastPart(event.file) : (event.name ?? event.reel),
      url: event.file,
      rate: null,
      start: null,
      seconds: null,
      kept: { reel: event.reel },
    };
    const [from, to] = source;
    const labels: SourceLabels = { from, to, speed, dropFrame: event.dropFrame };
    const length = record[1] - record[0];
    // Where nothing is known of the source, labels count from midnight at the list's rate.
    const run = labelledRun(labels, { list: this.timeline, length, source: { rate: this.timeline, start: null } });
    return {
      name,
      start: record[0] - hour,
      length,
      media,
      from: exactSecondsOf(run?.picture ?? 0, this.timeline),
      speed: run ? run.perFrame : rate(1),
      ...(run?.backward ? { backward: true } : {}),
      labels,
      place: `line ${event.line}`,
      kept: event.notes.length > 0 ? { notes: event.notes } : null,
    };
  }
}

/** Whether a text is a timecode of some rate; which picture it means is the source's to say. */
function isLabel(text: string): boolean {
  const match = /^\d{1,4}:(\d{1,2}):(\d{1,2})[:;.](\d{1,3})$/.exec(text);
  return match !== null && Number(match[1]) < 60 && Number(match[2]) < 60;
}

function lowerBound(clips: readonly EditClip[], start: number): number {
  let low = 0;
  let high = clips.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((clips[middle] as EditClip).start < start) low = middle + 1;
    else high = middle;
  }
  return low;
}
