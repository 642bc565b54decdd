import { frameAtOrBefore, type Rate, rateToNumber } from '@thawline/core/time';
import {
  asSeen,
  type Layer,
  layersAt,
  momentsAFrame,
  type PictureLayer,
  type Project,
  picturesOfLayers,
  type Timeline,
  type TimingOf,
  timelineLength,
} from '@thawline/project';
import { type Backdrop, useView } from '../state/view.js';
import { Bitmaps } from './bitmaps.js';
import { clipToLines, drawFramed, drawLayers, fieldLines } from './draw.js';
import { madeAt } from './looks.js';
import { madePictures } from './made.js';
import { SoundTrack } from './sound.js';

/** What the player itself missed; hitches of the edit are not among them. */
export interface PlayerCount {
  readonly shown: number;
  /** Frames whose time passed without being shown: not decoded in time, or faster than the screen. */
  readonly dropped: number;
}

export interface PlayerInput {
  readonly projectId: string;
  readonly project: Project;
  readonly timeline: Timeline;
  readonly timings: TimingOf;
  readonly canvas: HTMLCanvasElement;
  readonly from: number;
  /** 1 is the timeline's rate; sound plays at 1 alone. */
  readonly speed: number;
  readonly loop: boolean;
  readonly onFrame: (frame: number, count: PlayerCount) => void;
  /** The player came to its end by itself. */
  readonly onEnd: (frame: number) => void;
}

/** Seconds that are decoded ahead, and the most frames that is. */
const AHEAD_SECONDS = 0.9;
const AHEAD_FRAMES = 100;
/** Seconds that may pass before it starts without all its first pictures. */
const PATIENCE = 2;

/**
 * Plays a timeline with its true cadence: at each refresh of the screen it shows exactly the picture of the frame whose time it
 * is, from the proxies, or shows nothing new and counts it. The audio clock leads where there is sound.
 */
export class Player {
  private readonly bitmaps = new Bitmaps();
  private sound: SoundTrack | null = null;
  private started = 0;
  private last: number;
  private shown = 0;
  private dropped = 0;
  private ended = false;
  private readonly range: { readonly from: number; readonly to: number };
  private origin: number;
  /** What is played: the timeline, or where its frames are of two fields and pass no faster than they should, each field by itself. */
  private readonly seen: Timeline;
  /** Pictures of `seen` in each of the timeline's frames. */
  private readonly moments: number;

  constructor(private readonly input: PlayerInput) {
    const { timeline, speed } = input;
    const [seen, moments] = speed <= 1 ? [asSeen(timeline), momentsAFrame(timeline)] : [timeline, 1];
    const from = input.from * moments;
    const whole = { from: 0, to: Math.max(1, timelineLength(seen)) };
    const { range } = seen;
    this.seen = seen;
    this.moments = moments;
    this.range = range && from >= range.from && from < range.to ? range : whole;
    this.origin = from >= this.range.to - moments ? this.range.from : from;
    this.last = this.origin - 1;
    void this.begin();
  }

  /** Stops and gives everything back; the frame that was shown last. */
  stop(): number {
    this.ended = true;
    this.sound?.end();
    this.bitmaps.close();
    return this.frameOf(Math.max(this.range.from, this.last));
  }

  private async begin(): Promise<void> {
    const { timeline, projectId, speed } = this.input;
    const asked = performance.now();
    const wait = new Promise<void>((resolve) => {
      const look = (): void => {
        this.prefetch(this.origin);
        const enough = Array.from({ length: Math.min(6, this.range.to - this.origin) }, (_, i) => this.origin + i);
        if (this.ended || enough.every((f) => this.isReady(this.layers(f))) || performance.now() - asked > PATIENCE * 1000)
          resolve();
        else setTimeout(look, 15);
      };
      look();
    });
    await wait;
    if (this.ended) return;
    const sounding =
      speed === 1 && timeline.lanes.some((l) => l.kind === 'sound' && timeline.clips.some((c) => c.laneId === l.id));
    if (sounding) await this.startSound(projectId);
    if (this.ended) return;
    this.started = performance.now();
    requestAnimationFrame(() => this.tick());
  }

  private async startSound(projectId: string): Promise<void> {
    const sound = new SoundTrack(projectId, this.input.timeline.id);
    this.sound = sound;
    if (await sound.begin(this.frameOf(this.origin), this.frameOf(this.range.to))) return;
    sound.end();
    if (this.sound === sound) this.sound = null;
  }

  /** Seconds that have passed since the first frame. */
  private get seconds(): number {
    return this.sound ? this.sound.seconds : (performance.now() - this.started) / 1000;
  }

  private tick(): void {
    if (this.ended) return;
    const { speed, onFrame, onEnd, loop } = this.input;
    const micros = Math.floor(Math.max(0, this.seconds) * speed * 1e6);
    const due = this.origin + frameAtOrBefore(micros, MICROS, this.seen.rate);
    if (due >= this.range.to) {
      if (!loop) {
        const frame = this.range.to - 1;
        if (this.last < frame && this.draw(frame)) this.last = frame;
        this.ended = true;
        onEnd(this.frameOf(frame));
        return;
      }
      this.again();
      return;
    }
    this.prefetch(due);
    if (due > this.last) {
      this.dropped += due - this.last - 1;
      if (this.draw(due)) this.shown++;
      else this.dropped++;
      this.last = due;
      onFrame(this.frameOf(due), { shown: this.shown, dropped: this.dropped });
    }
    requestAnimationFrame(() => this.tick());
  }

  private again(): void {
    this.dropped += Math.max(0, this.range.to - 1 - this.last);
    this.origin = this.range.from;
    this.last = this.origin - 1;
    this.sound?.end();
    this.sound = null;
    void this.begin();
  }

  private layers(frame: number): Layer[] {
    const { project, timings } = this.input;
    return layersAt(project, this.seen, frame, timings);
  }

  /** The timeline's frame that a picture belongs to. */
  private frameOf(picture: number): number {
    return Math.floor(picture / this.moments);
  }

  private prefetch(from: number): void {
    const perSecond = rateToNumber(this.seen.rate) * this.input.speed;
    const to = Math.min(this.range.to, from + Math.min(AHEAD_FRAMES, Math.ceil(perSecond * AHEAD_SECONDS)));
    const wanted: { mediaId: string; picture: number }[] = [];
    for (let frame = from; frame < to; frame++)
      for (const { source, picture } of picturesOfLayers(this.layers(frame)))
        if (source && !source.lost) wanted.push({ mediaId: source.mediaId, picture });
    this.bitmaps.want(wanted);
  }

  private isReady(layers: readonly Layer[]): boolean {
    return picturesOfLayers(layers).every(
      ({ source, picture }) => !source || source.lost || this.bitmaps.get(source.mediaId, picture) !== undefined,
    );
  }

  /** Shows a frame if all its pictures are there. */
  private draw(frame: number): boolean {
    const layers = this.layers(frame);
    if (!this.isReady(layers)) return false;
    const { canvas } = this.input;
    const context = canvas.getContext('2d');
    if (!context) return false;
    context.save();
    const { fields } = this.input.timeline;
    // The other field's lines stay as they were drawn half a frame before.
    if (fields && this.moments === 2) clipToLines(context, fieldLines(fields, frame % 2 === 0 ? 'first' : 'second'));
    // What the page has behind the canvas is seen where nothing is.
    context.clearRect(0, 0, canvas.width, canvas.height);
    drawLayers<PictureLayer>(
      context,
      layers,
      ({ source, picture }) => (source && this.bitmaps.get(source.mediaId, picture)) ?? null,
      GROUNDS[useView.getState().backdrop],
    );
    // What motion made before is shown; making it now would take from the cores that play.
    const { project, timings } = this.input;
    const made = madeAt(project, this.seen, frame, timings);
    const bitmap = made && madePictures.get(made.moment)?.bitmap;
    if (bitmap) drawFramed(context, made.framed, 1, bitmap);
    context.restore();
    canvas.dataset.frame = String(this.frameOf(frame));
    if (this.moments === 2) canvas.dataset.field = frame % 2 === 0 ? 'first' : 'second';
    else delete canvas.dataset.field;
    canvas.dataset.picture = String(picturesOfLayers(layers)[0]?.picture ?? 'none');
    return true;
  }
}

/** What comes in with a clip that leaves something free; of squares their middle. */
const GROUNDS: Record<Backdrop, string> = { black: '#000', grey: '#808080', white: '#fff', squares: '#7e8789' };

const MICROS: Rate = { num: 1_000_000, den: 1 };
