import { rate } from '@thawline/core/time';
import { emptyProject, timelineSchema } from '../document/document.js';
import { renderedAt } from './atRenderRate.js';
import {
  CODECS,
  chromasOf,
  depthsOf,
  FORM_KINDS,
  FORMS,
  formSchema,
  pixelFormatOf,
  type RenderFormInput,
  settledForm,
} from './form.js';
import { fileNameOf, formWords, qualityWords } from './formWords.js';
import { sizesBeside, unheldBy, writtenFrames } from './unheld.js';

test('what does not go with a form is put right, what does is kept', () => {
  for (const kind of FORM_KINDS) {
    const form = settledForm(formSchema.parse({ kind, codec: 'av1', quality: 40, depth: 10 }));
    const { codecs } = FORMS[kind];
    expect(codecs.length === 0 || codecs.includes(form.codec)).toBe(true);
    expect(depthsOf(form)).toContain(form.depth);
    expect(settledForm(form)).toEqual(form);
  }
  expect(settledForm(formSchema.parse({ kind: 'webm' }))).toMatchObject({ codec: 'vp9', quality: CODECS.vp9.quality?.like });
  expect(settledForm(formSchema.parse({ kind: 'webm', quality: 40 }))).toMatchObject({ codec: 'vp9', quality: 40 });
  const fields = { order: 'top', lowPass: 'light' };
  expect(settledForm(formSchema.parse({ kind: 'mkv', fields })).fields).toEqual({ ...fields, pulldown: false });
  expect(settledForm(formSchema.parse({ kind: 'webm', fields })).fields).toBeNull();
  // A number of another codec's is not taken for one of this one's.
  expect(settledForm(formSchema.parse({ kind: 'webm', codec: 'h264', quality: 40 })).quality).toBe(CODECS.vp9.quality?.like);
  expect(settledForm(formSchema.parse({ kind: 'webm', codec: 'av1', quality: 0 })).quality).toBe(CODECS.av1.quality?.like);
});

const frames = (height: number, perSecond = rate(25), width = 720) => ({ width, height, rate: perSecond });
const form = (text: object) => settledForm(formSchema.parse(text));
const top = { order: 'top' };

test('two fields share lines evenly, and in H.264 four at a time', () => {
  const unheld = (kind: string, height: number) => unheldBy(form({ kind, fields: top }), frames(height));
  expect([1080, 576, 480].map((lines) => unheld('mp4', lines))).toEqual([null, null, null]);
  expect(unheld('mp4', 486)).toMatch(/multiple of four lines for two fields a frame, and this has 486\. Matroska takes it/);
  expect(unheld('mkv', 486)).toBeNull();
  expect(unheld('mkv', 243)).toMatch(/an even number of lines, and this has 243/);
  expect(unheldBy(form({ kind: 'mp4' }), frames(486))).toBeNull();
  expect(unheldBy(form({ kind: 'mp4' }), { ...frames(486), fields: 'top' })).toMatch(/Matroska/);
});

test('codecs that are edited on say what they do not hold', () => {
  const mov = (codec: string, more: object = {}) => form({ kind: 'mov', codec, ...more });
  expect(unheldBy(mov('mpeg2'), frames(576, rate(48)))).toMatch(
    /^MPEG-2 can only have 23\.976, .+ frames a second, and this is 48\. ProRes takes it\.$/,
  );
  expect(unheldBy(mov('mpeg2', { rate: rate(30000, 1001) }), frames(576, rate(48)))).toBeNull();
  expect(unheldBy(mov('mpeg2'), frames(2160, rate(25), 4096))).toMatch(/4096 or 8192 wide or high, and this is 4096x2160/);
  expect(unheldBy(mov('mpeg2'), frames(2160, rate(25), 3840))).toBeNull();
  expect(unheldBy(mov('dnxhr'), frames(96))).toMatch(/^DNxHR needs at least 256x120, and this is 720x96/);
  expect(unheldBy(mov('dnxhr', { fields: top }), frames(576))).toMatch(/whole pictures only\. ProRes and MPEG-2 take fields/);
  expect(unheldBy(mov('prores', { fields: top }), frames(486, rate(48)))).toBeNull();
});

test('depth and colour are the codec’s', () => {
  const found = ['prores', 'dnxhr', 'mpeg2'].map((codec) => form({ kind: 'mov', codec, depth: codec === 'mpeg2' ? 10 : 8 }));
  expect(found.map((f) => [f.depth, pixelFormatOf(f)])).toEqual([
    [10, 'yuv422p10le'],
    [8, 'yuv422p'],
    [8, 'yuv420p'],
  ]);
  expect(formWords(formSchema.parse({ kind: 'mov' }))).toBe('MOV \u00b7 ProRes 422 HQ \u00b7 10 bit \u00b7 PCM, 24 bit');
  expect(pixelFormatOf(form({ kind: 'y4m', depth: 10 }))).toBe('yuv420p10le');
});

test('a depth that a form has not becomes the next finer one, else its finest; numbered pictures are red, green and blue', () => {
  const at = (more: RenderFormInput) => pixelFormatOf(form(more));
  expect(at({ kind: 'png' })).toBe('gbrp');
  expect(at({ kind: 'png', depth: 10, chroma: '420' })).toBe('gbrp16le');
  expect(at({ kind: 'tiff', depth: 16, over: 'nothing' })).toBe('gbrap16le');
  expect(at({ kind: 'mp4', depth: 16 })).toBe('yuv420p10le');
  expect(at({ kind: 'mp4', codec: 'hevc', chroma: 'rgb', depth: 12 })).toBe('gbrp12le');
  expect(at({ kind: 'mkv', depth: 16, chroma: '422' })).toBe('yuv422p16le');
  // FFV1 has no alpha beside 12 bit of luma and chroma.
  expect(at({ kind: 'mkv', depth: 12, chroma: '444', over: 'nothing' })).toBe('yuva444p16le');
  expect(at({ kind: 'mkv', depth: 12, chroma: 'rgb', over: 'nothing' })).toBe('gbrap12le');
  expect(at({ kind: 'webm', depth: 12, over: 'nothing' })).toBe('yuva420p');
  expect(chromasOf(form({ kind: 'mp4' }))).toEqual(['420', '422', '444']);
  expect(chromasOf(form({ kind: 'webm', codec: 'av1' }))).toEqual(['420']);
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

test('what is written has a rate and fields: the timeline’s, the form’s, or those of film by 2:3', () => {
  const film = { rate: rate(24000, 1001) };
  expect(writtenFrames(form({ kind: 'mov' }), film)).toEqual(film);
  expect(writtenFrames(form({ kind: 'mov' }), { rate: rate(25), fields: 'top' })).toEqual({ rate: rate(25), fields: 'top' });
  expect(writtenFrames(form({ kind: 'webm' }), { rate: rate(25), fields: 'top' })).toEqual({ rate: rate(25) });
  const spread = { kind: 'mov', fields: { order: 'bottom', pulldown: true }, rate: rate(25) };
  expect(writtenFrames(form(spread), film)).toEqual({ rate: rate(30000, 1001), fields: 'bottom' });
});

test('an odd size is refused where chroma is halved, with the sizes beside it; elsewhere it is taken', () => {
  const odd = { rate: rate(25), width: 641, height: 361 };
  const form = (more: RenderFormInput) => settledForm(formSchema.parse(more));
  expect(unheldBy(form({ kind: 'mp4' }), odd)).toBe(
    'H.264 at 4:2:0 needs an even width and height, and this is 641x361. ProRes and FFV1 take it, or 4:4:4.',
  );
  expect(sizesBeside(form({ kind: 'mp4' }), odd)).toEqual([
    { width: 640, height: 360 },
    { width: 642, height: 362 },
  ]);
  // Halved across alone, an odd number of lines is no matter.
  expect(unheldBy(form({ kind: 'mp4', codec: 'hevc', chroma: '422' }), { ...odd, width: 640 })).toBeNull();
  expect(sizesBeside(form({ kind: 'mp4', chroma: '422' }), odd)).toEqual([
    { width: 640, height: 361 },
    { width: 642, height: 361 },
  ]);
  for (const more of [
    { kind: 'mp4', chroma: '444' },
    { kind: 'mkv' },
    { kind: 'webm' },
    { kind: 'mov' },
    { kind: 'png' },
  ] as const)
    expect({ more, said: unheldBy(form(more), odd) }).toEqual({ more, said: null });
  expect(unheldBy(form({ kind: 'webm', codec: 'av1' }), odd)).toMatch(
    /^AV1 at 4:2:0 needs an even width and height.*FFV1 take it\.$/,
  );
});
