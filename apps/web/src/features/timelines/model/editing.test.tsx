import { act, screen, waitFor } from '@testing-library/react';
import { type Clip, clipEnd, type Project, type Timeline } from '@thawline/project';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { useView } from '../../../shared/state/view.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { type Editing, how, useChoice, useChoose, useEditing } from './editing.js';

/** Three clips of 8 s in a row, each with its sound, on one picture and one sound lane. */
const project = placed(projectOf(film('talk'), film('pan'), film('drip')), 'talk', 'pan', 'drip');
const picturesOf = (timeline: Timeline | undefined): Clip[] => {
  const lane = timeline?.lanes.find((l) => l.kind === 'picture')?.id;
  return timeline?.clips.filter((c) => c.laneId === lane).sort((a, b) => a.start - b.start) ?? [];
};
const [first, second, third] = picturesOf(project.timelines[0]) as [Clip, Clip, Clip];

let hands: { editing: Editing; choose: ReturnType<typeof useChoose>; chosen: readonly Clip[]; timeline: Timeline };
let now = 0;
const frameNow = () => now;

/** The lanes' hands without the lanes. */
function Hands() {
  const { project: open } = useProject();
  const { clip } = useParams();
  const timeline = open.timelines[0] as Timeline;
  const chosen = useChoice(timeline, clip);
  const choose = useChoose(timeline);
  hands = { timeline, chosen, choose, editing: useEditing(timeline, chosen, frameNow) };
  return <output>{chosen.map((c) => c.id).join(' ')}</output>;
}

async function shown(clip?: Clip, of: Project = project) {
  useView.setState({ chosenClips: clip ? [clip.id] : [], clipboard: null });
  now = 0;
  const fake = new FakeProject(of);
  await show(<Hands />, `/p/p/timelines/t/${clip?.id ?? ''}`, '/p/:project/timelines/:timeline/:clip?');
  await screen.findByRole('status');
  return fake;
}
const chosen = () => screen.getByRole('status').textContent?.split(' ').filter(Boolean);

describe('choosing', () => {
  test('a clip alone, one beside it, and one of them taken away again', async () => {
    await shown(first);
    act(() => hands.choose(third, 'beside'));
    expect(chosen()).toEqual([first.id, third.id]);
    act(() => hands.choose(first, 'beside'));
    expect(chosen()).toEqual([third.id]);
    act(() => hands.choose(second));
    expect(chosen()).toEqual([second.id]);
    act(() => hands.choose(null));
    expect(chosen()).toEqual([]);
  });

  test('through to a clip takes what lies between on its lane, and nothing past either of them', async () => {
    await shown(first);
    act(() => hands.choose(second, 'through'));
    expect(chosen()).toEqual([first.id, second.id]);
    act(() => hands.choose(third, 'through'));
    expect(chosen()).toEqual([first.id, second.id, third.id]);
  });

  test('shift chooses through, ctrl or its like beside', () => {
    const keys = { shiftKey: false, ctrlKey: false, metaKey: false };
    expect(how(keys)).toBe('only');
    expect(how({ ...keys, shiftKey: true, ctrlKey: true })).toBe('through');
    expect(how({ ...keys, metaKey: true })).toBe('beside');
  });

  test('next and previous stop at the ends', async () => {
    await shown(third);
    for (let i = 0; i < 10; i++) act(() => hands.editing.chooseNext(-1));
    expect(hands.chosen[0]?.start).toBe(0);
    for (let i = 0; i < 10; i++) act(() => hands.editing.chooseNext(1));
    expect(hands.chosen[0]?.start).toBe(third.start);
  });
});

describe('a lane up or down', () => {
  const sound = project.timelines[0]?.clips.find((c) => c.link === first.link && c.id !== first.id) as Clip;

  test('is one further in its kind for pictures, which are drawn from the top', async () => {
    const fake = await shown(first);
    act(() => hands.editing.lane(-1));
    await waitFor(() => expect(fake.done).toMatchObject([{ type: 'moveClips', clipIds: [first.id], byFrames: 0, byLanes: 1 }]));
  });

  test('and the other way round for sound, which is drawn from its first', async () => {
    const fake = await shown(sound);
    act(() => hands.editing.lane(1));
    await waitFor(() => expect(fake.done).toMatchObject([{ clipIds: [sound.id], byLanes: 1 }]));
  });
});

describe('in and out', () => {
  test('go where the playhead is, and the other end stays', async () => {
    const fake = await shown();
    now = 40;
    act(() => hands.editing.inHere());
    await waitFor(() => expect(fake.document.timelines[0]?.range).toEqual({ from: 40, to: 600 }));
    now = 99;
    act(() => hands.editing.outHere());
    await waitFor(() => expect(fake.document.timelines[0]?.range).toEqual({ from: 40, to: 100 }));
  });

  test('past the other end they take it along, one frame off', async () => {
    const ranged = changed(project, { type: 'setRange', timelineId: 't', range: { from: 20, to: 50 } });
    const fake = await shown(undefined, ranged);
    now = 70;
    act(() => hands.editing.inHere());
    await waitFor(() => expect(fake.document.timelines[0]?.range).toEqual({ from: 70, to: 71 }));
    now = 10;
    act(() => hands.editing.outHere());
    await waitFor(() => expect(fake.document.timelines[0]?.range).toEqual({ from: 10, to: 11 }));
    act(() => hands.editing.noRange());
    await waitFor(() => expect(fake.document.timelines[0]?.range).toBeNull());
  });
});

describe('what is chosen', () => {
  test('is trimmed from where it stands now, not from where it was when the key was pressed first', async () => {
    const fake = await shown(second);
    act(() => {
      hands.editing.trim(2, 0);
      hands.editing.trim(2, 0);
    });
    await waitFor(() => expect(fake.done).toHaveLength(2));
    expect(fake.document.timelines[0]?.clips.find((c) => c.id === second.id)?.start).toBe(second.start + 4);
  });

  test('is copied and pasted at the playhead, and what was pasted is chosen', async () => {
    const fake = await shown(first);
    expect(hands.editing.copy()).toBe(true);
    now = 1000;
    act(() => hands.editing.paste());
    await waitFor(() => expect(fake.done).toMatchObject([{ type: 'placeClips' }]));
    const { clips } = fake.done[0] as { clips: Clip[] };
    expect(clips.map((c) => c.start)).toEqual(clips.map(() => 1000));
    await waitFor(() => expect(useView.getState().chosenClips).toEqual(clips.map((c) => c.id)));
  });

  test('is cut out into the clipboard', async () => {
    const fake = await shown(first);
    act(() => hands.editing.cut());
    await waitFor(() => expect(fake.done).toMatchObject([{ type: 'removeClips', clipIds: [first.id] }]));
    expect(useView.getState().clipboard).not.toBeNull();
  });

  test('nothing chosen does nothing', async () => {
    const fake = await shown();
    act(() => {
      hands.editing.move(1, 0);
      hands.editing.remove();
      hands.editing.slip(1);
      hands.editing.paste();
      hands.editing.noRange();
    });
    expect(hands.editing.copy()).toBe(false);
    expect(fake.done).toEqual([]);
  });

  test('all clips are chosen, and the last one leads', async () => {
    await shown();
    act(() => hands.editing.chooseAll());
    expect(chosen()).toHaveLength(hands.timeline.clips.length);
    expect(Math.max(...hands.chosen.map(clipEnd))).toBe(600);
    act(() => hands.editing.chooseNone());
    expect(chosen()).toEqual([]);
  });
});
