import { screen, waitFor, within } from '@testing-library/react';
import type { UserEvent } from '@testing-library/user-event';
import type { EditPreviewReply, OpenEditReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { OpenEditSheet, SaveEditSheet } from './EditFiles.js';

const event = (source: string, sure: 'certain' | 'likely' | 'unsure', lost = false) => ({
  ...{ place: `line ${source.length}`, label: '01:00:00:00', source, lost, picture: 12, sure },
});
const FOUND: EditPreviewReply = {
  clips: 3,
  timelines: [{ name: 'Ice-out', rate: rate(25), frames: 100 }],
  events: [event('talk', 'certain'), event('jetty-pan', 'unsure'), event('floe', 'likely'), event('gone', 'certain', true)],
  troubles: [],
};
const list = new File(['TITLE: ICE'], 'ice.edl', { type: 'text/plain' });

async function opening(found: EditPreviewReply | TurnedDown = FOUND, troubles: OpenEditReply['troubles'] = []) {
  const fake = new FakeProject(projectOf(film('talk')));
  let closed = 0;
  fake.server
    .on('previewEdit', () => {
      if (found instanceof TurnedDown) throw found;
      return found;
    })
    .on('openEdit', () => ({
      change: { projectId: 'p', version: 2, patches: [], undoLabel: 'Opened ice', redoLabel: null },
      timelineId: 't',
      clips: 3,
      troubles,
    }));
  const view = await show(<OpenEditSheet onClose={() => closed++} />, '/p/p/timelines/t', '/p/:project/timelines/:timeline');
  await screen.findByRole('dialog');
  const asked = (route: string) => fake.server.asked.filter((a) => a.route === route).map((a) => a.body);
  return { asked, closed: () => closed, ...view };
}
const choose = (user: UserEvent, file: File) => user.upload(screen.getByLabelText('Edit file'), file);
const open = () => screen.getByRole('button', { name: 'Open it' });

describe('opening', () => {
  test('before a file is chosen there is nothing to open', async () => {
    await opening();
    expect(open()).toBeDisabled();
    expect(screen.getByText('Choose a file first.')).toBeVisible();
  });

  test('what it would come to is shown first, what is unsure on top', async () => {
    const { user } = await opening();
    await choose(user, list);
    const preview = await screen.findByTestId('edit-preview');
    expect(preview).toHaveTextContent('3 clips in Ice-out, 25.');
    const rows = within(preview).getAllByRole('row').slice(1);
    expect(rows.map((row) => row.lastElementChild?.textContent)).toEqual(['look at it', 'likely', 'certain', 'not here yet']);
    expect(rows.map((row) => within(row).getAllByRole('cell')[2]?.textContent)).toEqual(['jetty-pan', 'floe', 'talk', 'gone']);
  });

  test('a list is opened at the rate that is said, and at none that is not', async () => {
    const { user, asked, closed } = await opening();
    await choose(user, list);
    const field = await screen.findByLabelText('Rate of the list');
    await user.clear(field);
    expect(open()).toBeDisabled();
    expect(screen.getByText(/^Say the list's rate/)).toBeVisible();
    await user.type(field, '29.97');
    await waitFor(() => expect(open()).toBeEnabled());
    await user.click(open());
    await waitFor(() =>
      expect(asked('openEdit')).toMatchObject([{ file: 'ice.edl', text: 'TITLE: ICE', rate: rate(30000, 1001) }]),
    );
    await waitFor(() => expect(closed()).toBe(1));
  });

  test('OpenTimelineIO says its rate itself', async () => {
    const { user, asked } = await opening();
    await choose(user, new File(['{}'], 'ice.otio'));
    await screen.findByTestId('edit-preview');
    expect(screen.queryByLabelText('Rate of the list')).not.toBeInTheDocument();
    await user.click(open());
    await waitFor(() => expect(asked('openEdit')).toMatchObject([{ file: 'ice.otio', rate: null }]));
  });

  test('what could not be taken is listed before one goes on', async () => {
    const { user, closed } = await opening(FOUND, [
      { code: 'unknown-event', place: 'line 4', sentence: 'Line 4 was not understood.' },
    ] as never);
    await choose(user, list);
    await screen.findByTestId('edit-preview');
    await user.click(open());
    expect(await screen.findByText('Line 4 was not understood.')).toBeVisible();
    expect(closed()).toBe(0);
    await user.click(screen.getByRole('button', { name: 'Go on' }));
    expect(closed()).toBe(1);
  });

  test('a file that is none is refused in a sentence, and not opened', async () => {
    const { user } = await opening(new TurnedDown('not-an-edit'));
    await choose(user, list);
    await waitFor(() => expect(open()).toBeDisabled());
    expect(screen.queryByTestId('edit-preview')).not.toBeInTheDocument();
  });
});

describe('saving', () => {
  function Saving({ onClose }: { onClose: () => void }) {
    const { project } = useProject();
    const [timeline] = project.timelines;
    return timeline ? <SaveEditSheet timeline={timeline} onClose={onClose} /> : null;
  }

  test('what a form cannot say is said before, and the link is to that form', async () => {
    new FakeProject(
      changed(placed(projectOf(film('talk')), 'talk', 'talk'), {
        type: 'setTimelineFormat',
        timelineId: 't',
        rate: rate(25),
        width: 640,
        height: 360,
        fields: 'top',
      }),
    );
    const { user } = await show(<Saving onClose={() => undefined} />);
    const link = () => screen.getByRole('link', { name: /^Save the/ });
    await screen.findByRole('dialog');
    expect(link().getAttribute('href')).toMatch(/otio$/);
    await user.click(screen.getByRole('radio', { name: 'CMX 3600 list (.edl)' }));
    await waitFor(() => expect(link().getAttribute('href')).toMatch(/edl$/));
    expect(screen.getByTestId('losses')).toHaveTextContent(/field/);
  });
});
