import { act, waitFor } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { FakeProject, film, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { type Addable, type Adding, type AddPlan, planFiles, planFolders, useAdding } from './adding.js';

/** A file as browsers give it: from a folder that was dropped, or by itself. */
function dropped(path: string, bytes = 10): File {
  const file = new File([new Uint8Array(bytes)], path.split('/').at(-1) ?? path);
  Object.defineProperty(file, 'webkitRelativePath', { value: path.includes('/') ? path : '' });
  return file;
}
const shots = (folder: string, numbers: readonly number[]) =>
  numbers.map((n) => dropped(`${folder}/shot-${String(n).padStart(4, '0')}.png`));

describe('what dropped files come to', () => {
  test('a file by itself is always tried, whatever its ending', () => {
    const plan = planFiles([dropped('jetty.mov'), dropped('strange.xyz')]);
    expect(plan.items.map((i) => [i.name, i.kind])).toEqual([
      ['jetty.mov', 'film'],
      ['strange.xyz', 'film'],
    ]);
    expect(plan.passed).toEqual([]);
  });

  test('of a folder only material is taken; what is passed over is counted by its reason, most first', () => {
    const files = ['day/a.mov', 'day/.DS_Store', 'day/b.txt', 'day/c.txt', 'day/sound.wav'].map((p) => dropped(p));
    const plan = planFiles(files);
    expect(plan.items.map((i) => [i.name, i.kind])).toEqual([
      ['a.mov', 'film'],
      ['sound.wav', 'sound'],
    ]);
    expect(plan.passed).toEqual([
      { reason: '.txt', files: 2, example: 'day/b.txt' },
      { reason: 'hidden', files: 1, example: 'day/.DS_Store' },
    ]);
  });

  test('numbered pictures of one folder are one source; those of another folder are another', () => {
    const plan = planFiles([...shots('a', [1, 2, 3, 5, 6]), ...shots('b', [1, 2, 3, 4, 5])]);
    expect(plan.items.map((i) => [i.kind, i.files, i.missing])).toEqual([
      ['series', 5, 1],
      ['series', 5, 0],
    ]);
  });

  test("a folder on the server's disk comes as the server found it", async () => {
    const fake = new FakeProject(projectOf());
    const item = { path: '/footage/jetty.mov', name: 'jetty.mov', kind: 'film', files: 1, missing: 0 };
    fake.server.on('scan', () => ({
      items: [item],
      passed: [],
      refused: [{ file: 'x', code: 'file-missing', message: 'x is not there.' }],
    }));
    const plan = await planFolders(['/footage']);
    expect(plan.items).toEqual([{ name: 'jetty.mov', kind: 'film', files: 1, missing: 0, from: { path: '/footage/jetty.mov' } }]);
    expect(plan.refused).toHaveLength(1);
    expect(fake.server.of('scan')[0]?.body).toEqual({ paths: ['/footage'] });
  });
});

describe('adding them', () => {
  let adding: Adding;
  /** One of its own for each test: the one before it is gone. */
  function holder() {
    let opened = false;
    function Holder() {
      adding = useAdding('p');
      opened = true;
      return null;
    }
    return { ui: <Holder />, isOpen: () => opened };
  }

  /** A server that adds whatever is sent, under the name it came with. */
  async function opened() {
    const fake = new FakeProject(projectOf());
    const added = (names: readonly string[]) => ({
      added: names.map((n) => film(n.replace(/\W/g, '-'))),
      refused: [],
      change: null,
    });
    fake.server
      .on('upload', ({ body }) => added([...(body as FormData).values()].map((f) => (f as File).name)))
      .on('addInPlace', ({ body }) => added((body as { items: { path: string }[] }).items.map((i) => i.path)));
    const { ui, isOpen } = holder();
    await show(ui);
    await waitFor(() => expect(isOpen()).toBe(true));
    return { fake, added };
  }
  const inPlace = (n: number): Addable => ({
    name: `f${n}.mov`,
    kind: 'film',
    files: 1,
    missing: 0,
    from: { path: `/footage/f${n}.mov` },
  });
  const plan = (items: readonly Addable[], other: Partial<AddPlan> = {}): AddPlan => ({
    items,
    passed: [],
    refused: [],
    ...other,
  });

  test('files are sent one after the other, as one step, and counted', async () => {
    const { fake } = await opened();
    await act(() => adding.add(planFiles([dropped('a.mov'), dropped('b.mov')]), null));
    expect(adding.report).toEqual({ added: 2, passed: [], refused: [] });
    expect(adding.progress).toBeNull();
    const batches = fake.server.of('upload').map((a) => a.query.batch);
    expect(batches).toHaveLength(2);
    expect(batches[0]).toBe(batches[1]);
    expect(batches[0]).toMatch(/\w/);
  });

  test('one that is turned down is told by its name, and the others are added all the same', async () => {
    const { fake, added } = await opened();
    fake.server.on('upload', ({ body }) => {
      const [file] = [...(body as FormData).values()] as File[];
      if (file?.name === 'b.mov') throw new TurnedDown('disk-full');
      return added([file?.name ?? '']);
    });
    await act(() => adding.add(planFiles([dropped('a.mov'), dropped('b.mov'), dropped('c.mov')]), null));
    expect(adding.report?.added).toBe(2);
    expect(adding.report?.refused).toHaveLength(1);
    expect(adding.report?.refused[0]).toMatchObject({ file: 'b.mov', message: expect.stringMatching(/^b\.mov: .*disk.*\.$/i) });
  });

  test('what the server refuses within a reply, and what was refused before, are told together', async () => {
    const { fake } = await opened();
    const early = { file: 'gone.mov', code: 'file-missing', message: 'gone.mov is not there.' };
    const late = { file: 'f1.mov', code: 'no-picture', message: 'f1.mov is no film.' };
    fake.server.on('addInPlace', () => ({ added: [], refused: [late], change: null }));
    await act(() => adding.add(plan([inPlace(1)], { refused: [early] }), null));
    expect(adding.report).toEqual({ added: 0, passed: [], refused: [early, late] });
  });

  test('files in place go eight to a request', async () => {
    const { fake } = await opened();
    await act(() => adding.add(plan(Array.from({ length: 19 }, (_, n) => inPlace(n))), null));
    expect(fake.server.of('addInPlace').map((a) => (a.body as { items: unknown[] }).items.length)).toEqual([8, 8, 3]);
    expect(adding.report?.added).toBe(19);
  });

  test('the rate that was asked for goes with numbered pictures only', async () => {
    const { fake } = await opened();
    const files = [...shots('a', [1, 2, 3, 4, 5]), dropped('jetty.mov')];
    await act(() => adding.add(planFiles(files), rate(24000, 1001)));
    const sent = fake.server.of('upload').map((a) => [[...(a.body as FormData).values()].length, a.query.sequence]);
    expect(sent).toEqual(
      expect.arrayContaining([
        [5, '24000/1001'],
        [1, undefined],
      ]),
    );
  });

  test('stopped, nothing more is sent; what was added stays counted', async () => {
    const { fake, added } = await opened();
    fake.server.on('addInPlace', ({ body }) => {
      adding.stop();
      return added((body as { items: { path: string }[] }).items.map((i) => i.path));
    });
    await act(() => adding.add(plan(Array.from({ length: 19 }, (_, n) => inPlace(n))), null));
    expect(fake.server.of('addInPlace')).toHaveLength(1);
    expect(adding.progress).toBeNull();
    expect(adding.report?.refused).toEqual([]);
  });

  test('the report goes when it is put away', async () => {
    await opened();
    await act(() => adding.add(planFiles([dropped('a.mov')]), null));
    act(() => adding.dismiss());
    expect(adding.report).toBeNull();
  });
});
