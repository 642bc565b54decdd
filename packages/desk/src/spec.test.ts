import { rate } from '@thawline/core/time';
import { type DeskSpec, deskSpecSchema, type FileFacts, objections, reasonSentence, specWords } from './index.js';

const ANY = {
  name: 'Desk',
  rates: [],
  sizes: [],
  endings: [],
  loudness: null,
  peak: null,
  heldPictures: true,
  timecode: 'any',
  bytes: null,
};
const spec = (more: object): DeskSpec => deskSpecSchema.parse({ ...ANY, ...more });
const file = (fields: FileFacts['fields']): FileFacts => ({
  name: 'cut.mp4',
  rate: rate(25),
  even: true,
  width: 720,
  height: 576,
  bytes: 1,
  loudness: null,
  peak: null,
  held: null,
  timecode: null,
  fields,
});
const told = (wanted: string, fields: FileFacts['fields']): string[] =>
  objections(spec({ fields: wanted }), file(fields)).map(reasonSentence);

test('a specification that says nothing of fields takes any', () => {
  expect(spec({}).fields).toBe('any');
  expect(objections(spec({}), file({ said: 'bottom', found: 'top' }))).toEqual([]);
  expect(specWords(spec({}))).toBe('anything');
  expect(specWords(spec({ fields: 'top' }))).toBe('two fields a frame, top first');
});

test('what the file says, and what its pictures show, are held against what is wanted', () => {
  expect(told('top', { said: 'top', found: 'top' })).toEqual([]);
  expect(told('top', { said: 'top', found: null })).toEqual([]);
  expect(told('top', { said: 'top', found: 'whole' })).toEqual([]);
  expect(told('top', { said: 'whole', found: 'whole' })).toEqual(['Fields: top field first wanted, whole pictures found.']);
  expect(told('top', { said: 'top', found: 'bottom' })).toEqual([
    'Fields: top field first wanted, bottom field first in its pictures found.',
  ]);
  expect(told('whole', { said: 'whole', found: 'top' })).toEqual([
    'Fields: whole pictures wanted, top field first in its pictures found.',
  ]);
});
