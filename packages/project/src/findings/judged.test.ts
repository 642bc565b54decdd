import { base } from '../document/project.fixture.js';
import { apply, applyDifference, type CommandInput, commandSchema, corrected, type Project, describe as told } from '../index.js';

const source = (project: Project) => project.sources.find((s) => s.id === 'talk');
const doing = (project: Project, command: CommandInput) => apply(project, commandSchema.parse(command));
const done = (project: Project, command: CommandInput): Project => {
  const applied = doing(project, command);
  if (!applied.ok) throw new Error(applied.code);
  return applied.project;
};

test('marks lie on their pictures in order, are written over and taken away, each one step to undo', () => {
  const mark = (picture: number, note: string | null): CommandInput => ({ type: 'markPicture', sourceId: 'talk', picture, note });
  const two = done(done(base, mark(40, 'clap')), mark(7, 'blink'));
  expect(source(two)?.marks).toEqual([
    { picture: 7, note: 'blink' },
    { picture: 40, note: 'clap' },
  ]);
  expect(source(done(two, mark(40, 'board')))?.marks?.[1]).toEqual({ picture: 40, note: 'board' });
  expect(source(done(two, mark(7, null)))?.marks).toEqual([{ picture: 40, note: 'clap' }]);
  const applied = doing(two, mark(9, 'x'));
  if (!applied.ok) throw new Error(applied.code);
  expect(applyDifference(applied.project, applied.difference.backward)).toEqual(two);
  expect(told(commandSchema.parse(mark(7, 'blink')), base)).toBe('Marked picture 7 of talk');
});

test('there is no picture after the last to mark or to judge', () => {
  const picture = source(base)?.pictures ?? 0;
  expect(doing(base, { type: 'markPicture', sourceId: 'talk', picture, note: 'x' })).toMatchObject({
    ok: false,
    code: 'past-source',
  });
  expect(doing(base, { type: 'judgePicture', sourceId: 'talk', picture, as: 'new' })).toMatchObject({
    ok: false,
    code: 'past-source',
  });
});

test("a person's word stands beside what was computed and is counted in where findings are used", () => {
  const judge = (picture: number, as: 'held' | 'new' | null): CommandInput => ({
    type: 'judgePicture',
    sourceId: 'talk',
    picture,
    as,
  });
  const project = done(done(base, judge(4, 'new')), judge(9, 'held'));
  const verdict = { held: [4, 6], unchanged: [4, 5, 6], jumps: [9, 20], missing: [1, 2] };
  const told = corrected(verdict, source(project)?.judged);
  expect(told).toEqual({ held: [6, 9], unchanged: [5, 6, 9], jumps: [20], missing: [2] });
  expect(verdict).toEqual({ held: [4, 6], unchanged: [4, 5, 6], jumps: [9, 20], missing: [1, 2] });
  expect(corrected(verdict, source(done(project, judge(4, null)))?.judged).held).toEqual([4, 6, 9]);
  expect(corrected(verdict, undefined)).toBe(verdict);
});
