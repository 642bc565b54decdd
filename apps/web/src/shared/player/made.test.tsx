import { cornersOf } from '@thawline/core/picture';
import { FakeWorker, fakeBitmap } from '../../test/worker.fixture.js';
import { keyOf, type MadeFrameKey, MadePictures } from './made.js';
import type { Ask, FromMaker } from './makerProtocol.js';

/** The frame halfway between picture k and the next one. */
const frame = (k: number): MadeFrameKey => {
  const picture = (n: number) => ({
    key: `m/${n}`,
    width: 64,
    height: 36,
    parts: [
      {
        mediaId: 'm',
        picture: n,
        opacity: 1,
        matrix: { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 },
        seen: cornersOf({ x: 0, y: 0, width: 1, height: 1 }),
      },
    ],
  });
  return { seen: [{ from: picture(k), to: picture(k + 1), share: 32768, weight: 1 }] };
};

type Maker = FakeWorker<Ask, FromMaker>;
const makers = () => FakeWorker.all as unknown as Maker[];
/** Which picture each worker has in hand: the last one that it was asked for. */
const inHand = () => makers().map((w) => w.sent.at(-1)?.seen[0]?.from.key ?? null);
const made = (certainty = 0.9): FromMaker => ({ type: 'made', id: 0, bitmap: fakeBitmap(), certainty, moved: true });

beforeEach(() => FakeWorker.install());

test('what is looked at comes before the strip, and each worker has one in hand', () => {
  const pictures = new MadePictures();
  pictures.want('strip', [frame(0), frame(1), frame(2)]);
  expect(inHand()).toEqual(['m/0', 'm/1']);
  pictures.want('view', [frame(40)]);
  makers()[0]?.answer(made());
  expect(inHand()).toEqual(['m/40', 'm/1']);
  expect(makers().map((w) => w.sent.length)).toEqual([2, 1]);
});

test('what is no longer wanted is not begun; what is in hand is finished and kept', () => {
  const pictures = new MadePictures();
  pictures.want('strip', [frame(0), frame(1), frame(2)]);
  pictures.want('strip', [frame(8)]);
  makers()[0]?.answer(made());
  makers()[1]?.answer(made());
  expect(pictures.get(frame(0))?.certainty).toBe(0.9);
  expect(makers().flatMap((w) => w.sent.map((a) => a.seen[0]?.from.key))).not.toContain('m/2');
  expect(inHand()).toContain('m/8');
});

test('a share is told to the worker as one below 1', () => {
  new MadePictures().want('view', [frame(0)]);
  expect(makers()[0]?.sent[0]?.seen[0]?.share).toBe(0.5);
});

test('listeners hear of each, made or given up; what failed is lost and not tried again', () => {
  const pictures = new MadePictures();
  const heard: string[] = [];
  const stop = pictures.listen((key) => heard.push(key));
  pictures.want('view', [frame(0), frame(1)]);
  makers()[0]?.answer({ type: 'failed', id: 0 });
  expect(pictures.isLost(frame(0))).toBe(true);
  stop();
  makers()[1]?.answer(made());
  expect(heard).toEqual([keyOf(frame(0))]);
  pictures.want('view', [frame(0)]);
  expect(makers()[0]?.sent).toHaveLength(1);
});

test('a worker that crashes loses what it had in hand alone, and another takes its place', () => {
  const pictures = new MadePictures();
  pictures.want('view', [frame(0), frame(1), frame(2)]);
  makers()[0]?.onerror?.();
  expect(makers()[0]?.terminated).toBe(true);
  expect([pictures.isLost(frame(0)), pictures.isLost(frame(1))]).toEqual([true, false]);
  pictures.want('view', [frame(1), frame(2)]);
  expect(makers()).toHaveLength(3);
  expect(inHand()).toContain('m/2');
});

test('how sure a picture is stays known when it is given back; what is wanted is never given back', () => {
  const pictures = new MadePictures();
  const many = Array.from({ length: 200 }, (_, k) => frame(k));
  const bitmaps: { closed: boolean }[] = [];
  for (const one of many) {
    pictures.want('view', [one, many[0] as MadeFrameKey]);
    const bitmap = fakeBitmap();
    bitmaps.push(bitmap);
    const maker = makers().find((w) => w.sent.at(-1)?.seen[0]?.from.key === one.seen[0]?.from.key);
    maker?.answer({ type: 'made', id: 0, bitmap, certainty: 0.5, moved: true });
  }
  expect(pictures.get(many[0] as MadeFrameKey)).toBeDefined();
  expect(pictures.get(many[1] as MadeFrameKey)).toBeUndefined();
  expect(pictures.certainty(many[1] as MadeFrameKey)).toBe(0.5);
  expect(bitmaps[1]?.closed).toBe(true);
  expect(bitmaps.filter((b) => !b.closed)).toHaveLength(160);
});
