import { jest } from '@jest/globals';
import { rate } from '@thawline/core/time';
import { noTiming, type Project } from '@thawline/project';
import { film, placed, projectOf } from '../../test/project.fixture.js';
import { FakeWorker, fakeBitmap } from '../../test/worker.fixture.js';
import { Player, type PlayerCount } from './player.js';
import type { FromDecoder, Want } from './protocol.js';

/** A screen and a clock that the test moves by hand. */
class Screen {
  now = 0;
  private drawing: (() => void)[] = [];
  private readonly timers: { at: number; run: () => void }[] = [];

  constructor() {
    jest.spyOn(performance, 'now').mockImplementation(() => this.now);
    jest.spyOn(globalThis, 'requestAnimationFrame').mockImplementation((draw) => {
      this.drawing.push(() => draw(this.now));
      return 1;
    });
    jest.spyOn(globalThis, 'setTimeout').mockImplementation(((run: () => void, ms = 0) => {
      this.timers.push({ at: this.now + ms, run });
      return 1;
    }) as typeof setTimeout);
  }

  /** Lets so many milliseconds pass, with one refresh at their end. */
  async refresh(ms: number): Promise<void> {
    this.now += ms;
    for (const timer of this.timers.splice(0)) {
      if (timer.at <= this.now) timer.run();
      else this.timers.push(timer);
    }
    await settled();
    for (const draw of this.drawing.splice(0)) draw();
    await settled();
  }
}

async function settled(): Promise<void> {
  for (let i = 0; i < 10; i++) await Promise.resolve();
}

const decoder = () => FakeWorker.all[0] as unknown as FakeWorker<Want, FromDecoder>;
let answered = 0;
/** Decodes what was asked for since. */
function decode(): void {
  for (const { id, count } of decoder().sent.slice(answered))
    decoder().answer({ type: 'pictures', id, bitmaps: Array.from({ length: count }, fakeBitmap) });
  answered = decoder().sent.length;
}

function play(project: Project, other: { loop?: boolean; speed?: number; from?: number } = {}) {
  FakeWorker.install();
  answered = 0;
  const screen = new Screen();
  const canvas = document.createElement('canvas');
  const nothing = () => undefined;
  const context = {
    canvas,
    clearRect: nothing,
    fillRect: nothing,
    drawImage: nothing,
    transform: nothing,
    save: nothing,
    restore: nothing,
  };
  canvas.getContext = (() => ({
    ...context,
    beginPath: nothing,
    moveTo: nothing,
    lineTo: nothing,
    closePath: nothing,
    rect: nothing,
    clip: nothing,
  })) as never;
  const shown: number[] = [];
  const ended: number[] = [];
  let count: PlayerCount = { shown: 0, dropped: 0 };
  const [timeline] = project.timelines;
  if (!timeline) throw new Error('no timeline');
  const player = new Player({
    projectId: 'p',
    project,
    timeline,
    timings: noTiming,
    canvas,
    from: 0,
    speed: 1,
    loop: false,
    ...other,
    onFrame: (frame, now) => {
      shown.push(frame);
      count = now;
    },
    onEnd: (frame) => ended.push(frame),
  });
  return { player, screen, shown, ended, canvas, count: () => count };
}

const silent = (pictures: number) => film('floe', { pictures, seconds: pictures / 25, sound: null });
const short = (pictures = 10): Project => placed(projectOf(silent(pictures)), 'floe');

afterEach(() => jest.restoreAllMocks());

test('it begins when its first pictures are there, and shows each frame at its time', async () => {
  const { screen, shown, count, ended, canvas } = play(short());
  await screen.refresh(20);
  expect(shown).toEqual([]);
  decode();
  await screen.refresh(20);
  for (let i = 0; i < 20; i++) {
    await screen.refresh(20);
    decode();
  }
  expect(shown).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9].slice(0, shown.length));
  expect(count()).toEqual({ shown: shown.length, dropped: 0 });
  await screen.refresh(60);
  expect(ended).toEqual([9]);
  expect(canvas.dataset.frame).toBe('9');
});

test('frames that a slow screen passes over are counted, and it stays in time', async () => {
  const { screen, shown, count } = play(short(20));
  decode();
  await screen.refresh(20);
  decode();
  await screen.refresh(0);
  for (let i = 0; i < 4; i++) {
    await screen.refresh(120);
    decode();
  }
  expect(shown).toEqual([0, 3, 6, 9, 12]);
  expect(count()).toEqual({ shown: 5, dropped: 8 });
});

test('a frame whose picture does not come is dropped, and counted once', async () => {
  const { screen, shown, count } = play(short(80));
  decode();
  await screen.refresh(20);
  // Nothing more is decoded: after what was asked for at first, every frame is missed.
  for (let i = 0; i < 40; i++) await screen.refresh(40);
  expect(shown.at(-1)).toBeGreaterThan(30);
  expect(count().shown + count().dropped).toBe((shown.at(-1) ?? 0) + 1);
  expect(count().dropped).toBeGreaterThan(0);
});

test('it does not wait for ever for its first pictures', async () => {
  const { screen, shown } = play(short());
  for (let i = 0; i < 110; i++) await screen.refresh(20);
  expect(shown.length).toBeGreaterThan(0);
});

test('at twice the speed every second frame is due; looping it goes back to the first', async () => {
  const fast = play(short(20), { speed: 2 });
  decode();
  await fast.screen.refresh(20);
  decode();
  await fast.screen.refresh(0);
  for (let i = 0; i < 5; i++) await fast.screen.refresh(40);
  expect(fast.shown).toEqual([0, 2, 4, 6, 8, 10]);
  jest.restoreAllMocks();

  const round = play(short(4), { loop: true });
  decode();
  await round.screen.refresh(20);
  await round.screen.refresh(0);
  for (let i = 0; i < 24; i++) {
    await round.screen.refresh(20);
    decode();
  }
  expect(round.ended).toEqual([]);
  expect(round.shown.slice(0, 4)).toEqual([0, 1, 2, 3]);
  expect(round.shown.filter((f) => f === 0).length).toBeGreaterThan(1);
});

test('when it is stopped it gives everything back and says where it was', async () => {
  const { player, screen, shown } = play(short());
  decode();
  await screen.refresh(20);
  await screen.refresh(0);
  await screen.refresh(80);
  expect(player.stop()).toBe(shown.at(-1));
  expect(decoder().terminated).toBe(true);
  const before = shown.length;
  await screen.refresh(80);
  expect(shown).toHaveLength(before);
});

test('a rate that no screen has is kept: of three refreshes at 60 two bring a frame at 40', async () => {
  const at40 = short(30);
  const project = { ...at40, timelines: at40.timelines.map((t) => ({ ...t, rate: rate(40) })) };
  const { screen, shown } = play(project);
  decode();
  await screen.refresh(20);
  decode();
  await screen.refresh(0);
  for (let i = 1; i <= 9; i++) await screen.refresh(1000 / 60);
  expect(shown).toEqual([0, 1, 2, 3, 4, 5, 6]);
});

test('of two fields a frame each is shown at its own moment; looked through faster, first fields alone', async () => {
  const at50 = film('floe', { pictures: 20, seconds: 0.4, sound: null, stored: rate(50), measured: { rate: rate(50), ppm: 0 } });
  const whole = placed(projectOf(at50), 'floe');
  const project = { ...whole, timelines: whole.timelines.map((t) => ({ ...t, fields: 'top' as const })) };
  const seen: string[] = [];
  const { screen, shown, count, canvas } = play(project);
  decode();
  await screen.refresh(20);
  decode();
  await screen.refresh(0);
  for (let i = 0; i < 5; i++) {
    seen.push(`${canvas.dataset.frame} ${canvas.dataset.field} ${canvas.dataset.picture}`);
    await screen.refresh(20);
    decode();
  }
  expect(seen).toEqual(['0 first 0', '0 second 1', '1 first 2', '1 second 3', '2 first 4']);
  expect(shown).toEqual([0, 0, 1, 1, 2, 2]);
  expect(count()).toEqual({ shown: 6, dropped: 0 });
  jest.restoreAllMocks();

  const fast = play(project, { speed: 2 });
  decode();
  await fast.screen.refresh(20);
  decode();
  await fast.screen.refresh(0);
  await fast.screen.refresh(20);
  await fast.screen.refresh(20);
  expect(fast.shown).toEqual([0, 1, 2]);
  expect(fast.canvas.dataset.field).toBeUndefined();
});
