import { screen, waitFor, within } from '@testing-library/react';
import type { ReceiptReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { formSchema } from '@thawline/project';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { ReceiptSheet } from './ReceiptSheet.js';

const project = placed(projectOf(film('floe-drift')), 'floe-drift');
const receipt: ReceiptReply = {
  jobId: 'm1',
  renderId: 'r1',
  file: 'main-cut.mp4',
  folder: '/data/renders',
  files: ['main-cut.mp4'],
  form: formSchema.parse({}),
  formWords: 'MP4, H.264',
  rate: rate(25),
  startFrame: 0,
  dropFrame: false,
  range: { from: 0, to: 200 },
  timeline: 'Main cut',
  timelineId: project.timelines[0]?.id ?? '',
  madeAt: '2026-04-02T09:00:00.000Z',
  bytes: 4_000_000,
  differs: 0,
  lines: [
    { what: 'rate', asked: '25', measured: '25', same: true },
    { what: 'frames', asked: '200', measured: '200', same: true },
  ],
  wrong: [],
  alike: 0,
  frames: 200,
  reused: null,
  loudness: null,
  peak: null,
  fingerprint: 'f',
  disk: 'same',
  deliveries: [],
};

async function shown(other: Partial<ReceiptReply> = {}) {
  const fake = new FakeProject(project);
  fake.server.on('startJobs', () => []);
  const view = await show(<ReceiptSheet receipt={{ ...receipt, ...other }} desk={null} />);
  await screen.findByTestId('receipt');
  return { fake, ...view };
}
const line = (what: string) =>
  within(screen.getByTestId(`line-${what}`))
    .getAllByRole('cell')
    .map((cell) => cell.textContent);

test('what was asked stands beside what was measured, and says when both are the same', async () => {
  await shown();
  expect(screen.getByTestId('stamp')).toHaveTextContent('As asked');
  expect(line('frames')).toEqual(['200', '200', 'same']);
  expect(screen.getByText(/main-cut\.mp4 · 4\.0 MB · MP4, H\.264/)).toBeVisible();
  expect(screen.queryByText(/hardly differ/)).not.toBeInTheDocument();
});

test('what differs is counted, and its line says to look', async () => {
  const lines: ReceiptReply['lines'] = [{ what: 'frames', asked: '200', measured: '199', same: false }];
  await shown({ lines, differs: 1, alike: 2, reused: 150 });
  expect(screen.getByTestId('stamp')).toHaveTextContent('1 thing differs');
  expect(line('frames')).toEqual(['200', '199', 'look']);
  expect(screen.getByText(/2 frames hardly differ from a neighbour/)).toBeVisible();
  expect(screen.getByText(/150 frames had been written before/)).toBeVisible();
});

test('a file that is gone can be neither saved nor checked', async () => {
  await shown({ disk: 'missing' });
  expect(screen.getByTestId('stamp')).toHaveTextContent('The file is gone');
  expect(screen.getByTestId('disk')).toHaveTextContent('no longer in /data/renders');
  expect(screen.getByRole('button', { name: 'Check its pictures' })).toBeDisabled();
  expect(screen.getByText('Save the file').closest('a')).toHaveAttribute('data-disabled', 'true');
});

test('a file that was changed since is measured again where that is asked for', async () => {
  const { fake, user } = await shown({ disk: 'changed' });
  expect(screen.getByTestId('stamp')).toHaveTextContent('Another file now');
  await user.click(screen.getByRole('button', { name: 'Measure it again' }));
  await waitFor(() => expect(fake.server.of('startJobs').map((a) => a.body)).toEqual([{ kind: 'receipt', jobId: 'r1' }]));
});

test('pictures and sound alone are not checked as a film', async () => {
  await shown({ form: formSchema.parse({ kind: 'png' }) });
  expect(screen.queryByRole('button', { name: 'Check its pictures' })).not.toBeInTheDocument();
  expect(screen.queryByText('Save the file')).not.toBeInTheDocument();
});
