import { screen, waitFor, within } from '@testing-library/react';
import type { CheckSummary } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { type FieldFinding, NO_FIELDS, type Verdict } from '@thawline/core/truth';
import { madeStill } from '@thawline/project/fixture';
import { FakeProject, film, job, projectOf, show } from '../../../test/project.fixture.js';
import { FieldsView } from './FieldsView.js';

const NTSC = rate(30000, 1001);
const reel = film('old-reel', {
  ...{ stored: NTSC, measured: { rate: NTSC, ppm: 0 }, pictures: 240, seconds: 8.008, fields: 'bottom', sound: null },
});
const FOUND: FieldFinding = {
  kind: 'mixed',
  first: 'top',
  flag: 'wrong',
  certainty: 0.998,
  breaks: [62],
  stretches: [
    { from: 0, to: 120, kind: 'pulldown', first: 'top', flag: 'wrong', certainty: 0.998 },
    { from: 120, to: 240, kind: 'interlaced', first: 'top', flag: 'wrong', certainty: 0.999 },
  ],
  film: [
    { way: 'film', from: 0, to: 62, first: 'top', beat: '2:3', passed: 0 },
    { way: 'film', from: 62, to: 120, first: 'top', beat: '2:3', passed: 3 },
  ],
};
const summaryOf = (mediaId: string, fields: FieldFinding): CheckSummary => ({
  ...{ mediaId, jobId: 'k1', decoded: 240, range: { from: 0, to: 240 }, region: null, counter: null },
  verdict: {
    kind: 'mixed' as const,
    pictures: 240,
    storedRate: 29.97,
    trueRate: 26.97,
    held: [],
    unchanged: [],
    jumps: [],
    missing: [],
    cuts: [],
    faults: [],
    blends: [],
    shares: [],
    made: [],
    parts: [],
    passages: [],
    stretches: [],
    fields,
    certainty: 0.99,
    holdCeiling: null,
  } satisfies Verdict,
});

async function shown({ found = FOUND as FieldFinding | null, at = 0, project = projectOf(reel), jobs = [job()].slice(1) } = {}) {
  const fake = new FakeProject(project);
  fake.jobs = jobs;
  fake.server.on('checks', () => (found ? [summaryOf(reel.mediaId, found)] : [])).on('startJobs', () => []);
  const view = await show(<FieldsView />, `/p/p/sources/old-reel/fields/${at}`, '/p/:project/sources/:source/fields/:frame?');
  return { fake, ...view };
}
const choice = (name: RegExp) => screen.findByRole('radio', { name });
const outcome = async (name: string): Promise<string | null> =>
  (await screen.findByText(name)).nextElementSibling?.textContent ?? null;

test('what it is: kind and order as measured, beside what the file says, and that this is wrong', async () => {
  await shown();
  await screen.findByText('two kinds of material');
  const head = screen.getByTestId('fields-head');
  for (const said of ['Stored29.97', 'Flag saysbottom first', 'wrong', 'Measuredtop first99.8 %'])
    expect(head).toHaveTextContent(said);
  const band = screen.getByTestId('fields-band');
  expect(within(band).getByRole('button', { name: 'film by 2:3, top field first' })).toBeVisible();
  expect(within(band).getByRole('button', { name: 'break at 62' })).toBeVisible();
});

test('each stretch its own way is there to begin with, with what comes of it', async () => {
  await shown();
  expect(await choice(/each stretch as measured/)).toBeChecked();
  expect(await choice(/film, pulldown undone/)).toHaveTextContent('23.976');
  expect(screen.getByRole('radio', { name: /one picture a field/ })).toHaveTextContent('for 120\u2013239');
  expect(await outcome('Pictures')).toBe('240 \u2192 337');
  expect(await outcome('Breaks of the beat bridged')).toBe('1');
});

test('read so, the source has other pictures; as stored it has those of the file again', async () => {
  const { user, fake } = await shown();
  await screen.findByText('two kinds of material');
  await user.click(screen.getByRole('button', { name: 'Read it so' }));
  await waitFor(() =>
    expect(fake.document.sources[0]).toMatchObject({ pictures: 337, variable: true, mediaId: 'read-old-reel' }),
  );
  expect(await screen.findByRole('button', { name: 'It is read so' })).toBeDisabled();
  await user.click(screen.getByRole('button', { name: 'Read it as stored' }));
  await waitFor(() => expect(fake.document.sources[0]).toEqual(reel));
});

test('another way and another order are chosen by hand', async () => {
  const { user, fake } = await shown();
  await user.click(await choice(/one picture a field/));
  expect(await outcome('Pictures')).toBe('240 \u2192 480');
  expect(await outcome('Lines kept as they are')).toBe('50 %');
  await user.selectOptions(screen.getByRole('combobox', { name: 'First field' }), 'as the file says');
  const [seen] = within(screen.getByTestId('field-pictures')).getAllByRole('img');
  expect(seen).toHaveAttribute('src', expect.stringContaining('order=bottom'));
  await user.click(screen.getByRole('button', { name: 'Read it so' }));
  await waitFor(() =>
    expect(fake.document.sources[0]?.fieldsRead?.runs).toEqual([{ way: 'one-a-field', from: 0, to: 240, first: 'bottom' }]),
  );
});

test('the weave says which field goes into which picture; a frame of two pictures stands out', async () => {
  await shown({ at: 2 });
  await screen.findByText('two kinds of material');
  const weave = screen.getByRole('img', { name: /^Weave of fields, stored frames 0 to 8/ });
  expect(weave).toHaveAccessibleName(/F0 from 2 fields, F1 from 3 fields, F2 from 2 fields/);
  const mixed = [...weave.querySelectorAll('[data-mixed="true"]')].map((g) => g.textContent);
  expect(mixed).toEqual(['F1 firstF2 second2', 'F2 firstF3 second3', 'F5 firstF6 second7', 'F6 firstF7 second8']);
});

test('a frame is seen taken apart, rebuilt and in turn; keys walk through frames', async () => {
  const { user, router } = await shown({ at: 130 });
  await screen.findByText('two kinds of material');
  const pictures = screen.getByTestId('field-pictures');
  const names = () =>
    within(pictures)
      .getAllByRole('img')
      .map((i) => i.getAttribute('alt'));
  expect(names()).toEqual([
    'first field of frame 130',
    'second field of frame 130',
    'both, as stored of frame 130',
    'rebuilt: first picture of frame 130',
  ]);
  expect(within(pictures).getAllByRole('img')[0]).toHaveAttribute(
    'src',
    expect.stringContaining('/frames/130/fields/first?order=top'),
  );
  await user.keyboard('{ArrowRight}');
  await waitFor(() => expect(router.state.location.pathname).toMatch(/131$/));
  await user.click(screen.getByRole('radio', { name: 'rebuilt' }));
  expect(names()).toHaveLength(4);
  expect(names().at(-1)).toMatch(/^what rebuilding the first changes/);
  await user.click(screen.getByRole('radio', { name: 'play slowly' }));
  expect(pictures.querySelectorAll('figure:not([hidden])')).toHaveLength(1);
});

test.each([
  ['2:12', '28.771', '240 \u2192 239.58 frames'],
  ['2:2', '29.97', 'same'],
] as const)('film by %s is told by its own rate and length', async (beat, rateOfFilm, length) => {
  const all = { from: 0, to: 240, first: 'top' as const };
  await shown({
    found: {
      kind: 'pulldown',
      first: 'top',
      flag: 'right',
      certainty: 0.99,
      breaks: [],
      stretches: [{ ...all, kind: 'pulldown', flag: 'right', certainty: 0.99 }],
      film: [{ ...all, way: 'film', beat, passed: 0 }],
    },
  });
  await screen.findByText(`film by ${beat}`);
  expect(await choice(/film, pulldown undone/)).toHaveTextContent(rateOfFilm);
  expect(screen.getByTestId('fields-head')).toHaveTextContent(`Moments a second${rateOfFilm}`);
  expect(await outcome('Length')).toBe(length);
});

test('both ways round are played beside each other: the same fields in either order', async () => {
  const { user } = await shown({ at: 200 });
  await user.click(await screen.findByRole('button', { name: 'Both ways round' }));
  const proof = await screen.findByRole('dialog', { name: 'Both ways round' });
  expect(within(proof).getByText('top field first, as measured')).toBeVisible();
  const order = (said: string) =>
    [...proof.querySelectorAll('img')].filter((i) => i.alt.startsWith(said)).map((i) => /fields\/([a-z-]+)/.exec(i.src)?.[1]);
  expect(order('top').slice(0, 2)).toEqual(['rebuilt-first', 'rebuilt-second']);
  expect(order('bottom').slice(0, 2)).toEqual(['rebuilt-second', 'rebuilt-first']);
});

test('before a check nothing is said to be measured; it is started from here', async () => {
  const { user, fake } = await shown({ found: null });
  expect(await screen.findByText('not measured yet')).toBeVisible();
  expect(await choice(/film, pulldown undone/)).toBeDisabled();
  await user.click(screen.getByRole('button', { name: 'Measure its fields' }));
  await waitFor(() =>
    expect(fake.server.of('startJobs').map((a) => a.body)).toEqual([{ kind: 'check', sourceIds: ['old-reel'] }]),
  );
});

test('whole pictures that are flagged as fields are read as they are', async () => {
  const whole = {
    ...NO_FIELDS,
    flag: 'wrong' as const,
    certainty: 0.99,
    stretches: [{ from: 0, to: 240, kind: 'none' as const, first: null, flag: 'wrong' as const, certainty: 0.99 }],
  };
  await shown({ found: whole });
  expect(await screen.findByText('progressive in segmented frames', { selector: 'div' })).toBeVisible();
  expect(await choice(/^progressive/)).toBeChecked();
  expect(screen.queryByRole('button', { name: 'Both ways round' })).not.toBeInTheDocument();
});

test('a still has no fields, and the way back is there', async () => {
  const { user, router } = await shown({ project: projectOf({ ...madeStill('old-reel') }) });
  expect(await screen.findByRole('heading', { name: 'No fields here' })).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'To the sources' }));
  expect(router.state.location.pathname).toBe('/p/p/sources/old-reel');
});
