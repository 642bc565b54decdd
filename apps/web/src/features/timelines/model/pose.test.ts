import { PLAIN_POSE, type Pose } from '@thawline/core/picture';
import { anchoredAt, anchorOf, changedPose, inOneTurn, type Laying, movedBy, pictureAt, scaledBy, turnedBy } from './pose.js';

const laying: Laying = { source: { width: 640, height: 360 }, frame: { width: 1280, height: 720 }, framing: 'inside' };
const posed = (pose: Partial<Pose>): Pose => ({ ...PLAIN_POSE, ...pose });

test('moved by pixels of the frame, not further than there is reach', () => {
  expect(movedBy(PLAIN_POSE, laying.frame, { x: 128, y: -72 })).toMatchObject({ x: 0.1, y: -0.1 });
  expect(movedBy(PLAIN_POSE, laying.frame, { x: 1e6, y: 0 }).x).toBe(20);
});

test('a corner pulled twice as far from the anchor makes it twice as large, its shape kept', () => {
  const pose = posed({ scaleX: 0.5, scaleY: 0.25 });
  const anchor = anchorOf(laying, pose);
  expect(anchor).toEqual({ x: 640, y: 360 });
  const to = scaledBy(laying, pose, { x: 740, y: 360 }, { x: 640, y: 560 });
  expect(to).toMatchObject({ scaleX: 1, scaleY: 0.5 });
  // Neither side goes beyond what there is, so that its shape stays.
  expect(scaledBy(laying, pose, { x: 641.5, y: 360 }, { x: 640, y: 5000 })).toMatchObject({ scaleX: 20, scaleY: 10 });
  expect(scaledBy(laying, pose, anchor, { x: 900, y: 360 })).toBe(pose);
});

test('a quarter draws a turn to itself unless it is to be free', () => {
  const pull = { from: { x: 640, y: 100 }, to: { x: 900, y: 355 } };
  expect(turnedBy(laying, PLAIN_POSE, { ...pull, free: false }).turn).toBe(90);
  expect(turnedBy(laying, PLAIN_POSE, { ...pull, free: true }).turn).toBeCloseTo(88.9, 6);
  expect([inOneTurn(270), inOneTurn(-180), inOneTurn(721)]).toEqual([-90, 180, 1]);
});

test('another anchor leaves the picture where it is, however it is turned', () => {
  for (const pose of [PLAIN_POSE, posed({ turn: 33, scaleX: 0.5, scaleY: 0.4, x: 0.1 }), posed({ turn: 90, scaleX: 0.3 })]) {
    const now = anchoredAt(laying, pose, { x: 0.2, y: 0.9 });
    for (const place of [
      { x: 100, y: 100 },
      { x: 700, y: 300 },
    ]) {
      const [before, after] = [pictureAt(laying, pose, place), pictureAt(laying, now, place)];
      // A pixel at most: quarters stand at whole ones.
      expect(Math.abs(before.x - after.x) * 640).toBeLessThan(1.5);
      expect(Math.abs(before.y - after.y) * 360).toBeLessThan(1.5);
    }
  }
});

test('a command holds what is another one alone', () => {
  expect(changedPose(PLAIN_POSE, { ...PLAIN_POSE })).toBeNull();
  expect(changedPose(PLAIN_POSE, posed({ x: 0.5, turn: 10 }))).toEqual({ x: 0.5, turn: 10 });
});
