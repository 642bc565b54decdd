import { rate } from '@thawline/core/time';
import { emptyProject, timelineSchema } from '../document/document.js';
import { renderedAt } from './atRenderRate.js';
import {
  FORM_KINDS,
  FORMS,
  fileNameOf,
  formSchema,
  formWords,
  noFieldsWords,
  QUALITIES,
  qualityWords,
  settledForm,
} from './form.js';

test('what does not go with a form is put right, what does is kept', () => {
  for (const kind of FORM_KINDS) {
    const form = settledForm(formSchema.parse({ kind, codec: 'av1', quality: 40, depth: 10 }));
    const { codecs, depths } = FORMS[kind];
    expect(codecs.length === 0 || codecs.includes(form.codec)).toBe(true);
    expect(depths).toContain(form.depth);
    expect(settledForm(form)).toEqual(form);
  }
  expect(settledForm(formSchema.parse({ kind: 'webm' }))).toMatchObject({ codec: 'vp9', quality: QUALITIES.vp9.like });
  expect(settledForm(formSchema.parse({ kind: 'webm', quality: 40 }))).toMatchObject({ codec: 'vp9', quality: 40 });
  const fields = { order: 'top', lowPass: 'light' };
  expect(settledForm(formSchema.parse({ kind: 'mkv', fields })).fields).toEqual(fields);
  expect(settledForm(formSchema.parse({ kind: 'webm', fields })).fields).toBeNull();
  // A number of another codec's is not taken for one of this one's.
  expect(settledForm(formSchema.parse({ kind: 'webm', codec: 'h264', quality: 40 })).quality).toBe(QUALITIES.vp9.like);
  expect(settledForm(formSchema.parse({ kind: 'webm', codec: 'av1', quality: 0 })).quality).toBe(QUALITIES.av1.like);
});

test('two fields share lines evenly, and in H.264 four at a time', () => {
  expect([1080, 576, 480].map((lines) => noFieldsWords('h264', lines))).toEqual([null, null, null]);
  expect(noFieldsWords('h264', 486)).toMatch(/and these are 486: Matroska takes them/);
  expect(noFieldsWords('ffv1', 486)).toBeNull();
  expect(noFieldsWords('ffv1', 243)).toMatch(/243 are an odd number/);
});

test('a form is said in a line, its number in words', () => {
  expect(formWords(formSchema.parse({}))).toBe('MP4 \u00b7 H.264 quality 18 \u00b7 AAC');
  expect(formWords(formSchema.parse({ kind: 'mkv', depth: 10, sound: 'off' }))).toBe('Matroska \u00b7 FFV1 \u00b7 10 bit');
  expect(formWords(formSchema.parse({ kind: 'png' }))).toBe('Numbered PNG \u00b7 WAV beside it');
  expect(qualityWords('h264', 0)).toMatch(/^lossless/);
  expect(qualityWords('h264', 18)).toBe('as good as the original to the eye');
  expect(qualityWords('vp9', 60)).toMatch(/^coarse/);
});

test('a name of a file leads nowhere', () => {
  expect(fileNameOf('  Ice  out, reel 2 ')).toBe('Ice out, reel 2');
  for (const bad of ['', '  ', '../x', 'a/b', 'a\\b', '.hidden', 'c:x', 'x\u0000', 'a'.repeat(201), 'é'.repeat(101)])
    expect(fileNameOf(bad)).toBeNull();
  for (const good of ['a'.repeat(200), 'é'.repeat(100), '氷'.repeat(66)]) expect(fileNameOf(good)).toBe(good);
});

describe('another rate', () => {
  const lanes = [{ id: 'p', kind: 'picture', name: 'P' }];
  const clip = {
    id: 'c',
    sourceId: 's',
    laneId: 'p',
    link: null,
    start: 0,
    length: 100,
    inPicture: 0,
    headTrim: 0,
    fit: 'nearest',
    speed: rate(1),
    cut: null,
  };
  const timeline = timelineSchema.parse({
    id: 't',
    name: 'Cut',
    rate: rate(25),
    width: 64,
    height: 36,
    startFrame: 90_000,
    lanes,
    clips: [clip],
  });
  const project = { ...emptyProject('P'), timelines: [timeline] };

  test('the timeline itself where none is asked for', () => {
    expect(renderedAt(project, timeline, { rate: null, way: 'nearest' })).toEqual({
      project,
      timeline,
      range: { from: 0, to: 100 },
    });
    expect(renderedAt(project, timeline, { rate: rate(25), way: 'blend' }).timeline).toBe(timeline);
  });

  test.each([
    [rate(50), 200],
    [rate(24), 96],
    [rate(60000, 1001), 239],
  ])('at %p it lasts as long, and begins at the same timecode', (to, frames) => {
    const at = renderedAt(project, timeline, { rate: to, way: 'motion' });
    expect(at.range).toEqual({ from: 0, to: frames });
    expect(at.timeline.startFrame).toBe(3600 * Math.round(to.num / to.den));
    expect(at.timeline.clips).toMatchObject([{ sourceId: 't', fit: 'motion' }]);
    const part = renderedAt(project, timeline, { rate: to, way: 'motion' }, { from: 25, to: 50 });
    expect(part.range.from).toBe(Math.ceil(to.num / to.den));
    expect(part.range.to - part.range.from).toBeGreaterThan(0);
    expect(part.range.to).toBeLessThanOrEqual(Math.ceil((2 * to.num) / to.den));
  });
});
