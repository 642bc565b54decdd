import { act, screen, waitFor, within } from '@testing-library/react';
import type { OutputsReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { formSchema } from '@thawline/project';
import { useProject } from '../../../../api/ProjectProvider.js';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import { FakeProject, film, placed, projectOf, show } from '../../../../test/project.fixture.js';
import { FormCard } from './FormCard.js';

const fresh = useRenderWishes.getState();
beforeEach(() => useRenderWishes.setState(fresh, true));

function Card({ outputs }: { outputs: OutputsReply | undefined }) {
  const { project } = useProject();
  const [timeline] = project.timelines;
  return timeline ? <FormCard timeline={timeline} outputs={outputs} /> : null;
}

type Preset = { id: string; name: string; form: ReturnType<typeof formSchema.parse> };

async function shown({ outputs, presets = [], at = 25 }: { outputs?: OutputsReply; presets?: Preset[]; at?: number } = {}) {
  const project = placed(projectOf(film('floe-drift')), 'floe-drift');
  const fake = new FakeProject({ ...project, timelines: project.timelines.map((t) => ({ ...t, rate: rate(at) })) });
  let kept = presets;
  fake.server
    .on('presets', () => kept)
    .on('savePreset', ({ body }) => {
      kept = [...kept, { id: 'new', ...(body as Omit<Preset, 'id'>) }];
      return kept;
    })
    .on('removePreset', ({ parameters }) => {
      kept = kept.filter((p) => p.id !== parameters.preset);
      return kept;
    });
  const view = await show(<Card outputs={outputs} />);
  await screen.findByTestId('form');
  const choose = async (label: string, option: RegExp) => {
    await view.user.click(screen.getByRole('combobox', { name: label }));
    await view.user.click(await screen.findByRole('option', { name: option }));
  };
  return { fake, choose, ...view };
}
const form = () => useRenderWishes.getState().form;

test('a quality is told in words, with the finest and one that is as good to the eye', async () => {
  const { user } = await shown();
  const quality = screen.getByLabelText('Quality');
  await user.clear(quality);
  await user.type(quality, '30');
  expect(form().quality).toBe(30);
  expect(screen.getByTestId('quality-words')).toHaveTextContent(/^30 is .+ The finest is \d+; as good to the eye, \d+\.$/);
});

test('a lossless form has no quality, and says so', async () => {
  const { choose } = await shown();
  await choose('Form', /FFV1/);
  expect(screen.queryByLabelText('Quality')).not.toBeInTheDocument();
  expect(screen.getByText('Lossless: every picture comes back exactly.')).toBeVisible();
});

test('frames of two fields: which comes first, and a low-pass with what it leaves; forms of whole pictures are not asked', async () => {
  const { choose } = await shown();
  expect(screen.queryByRole('combobox', { name: /^Low-pass/ })).not.toBeInTheDocument();
  await choose('Frames hold', /bottom first/);
  expect(form().fields).toEqual({ order: 'bottom', lowPass: 'off', pulldown: false });
  await choose('Low-pass, line to line', /^strong/);
  expect(form().fields).toEqual({ order: 'bottom', lowPass: 'strong', pulldown: false });
  await choose('Form', /WebM/);
  expect(screen.queryByRole('combobox', { name: 'Frames hold' })).not.toBeInTheDocument();
  await choose('Form', /^MP4/);
  await choose('Frames hold', /whole pictures/);
  expect(form().fields).toBeNull();
});

test('what stands where nothing is: a colour by name or one of its own, and transparency where the form has it', async () => {
  const { choose, user } = await shown();
  expect(form().over).toBe('#000000');
  await choose('Where nothing is', /white/);
  expect(form().over).toBe('#ffffff');
  await choose('Where nothing is', /another colour/);
  const colour = screen.getByLabelText('Colour there');
  await user.clear(colour);
  await user.type(colour, '#00B140');
  expect(form().over).toBe('#00b140');
  await user.click(screen.getByRole('combobox', { name: 'Where nothing is' }));
  expect(await screen.findByRole('option', { name: 'transparent (not in this form)' })).toHaveAttribute(
    'data-combobox-disabled',
    'true',
  );
  await choose('Form', /FFV1/);
  await choose('Where nothing is', /^transparent$/);
  expect(form().over).toBe('nothing');
});

test('sound alone asks for nothing of pictures', async () => {
  const { choose } = await shown();
  await choose('Form', /^Sound alone/);
  expect(form().kind).toBe('wav');
  expect(screen.queryByRole('switch', { name: 'Sound' })).not.toBeInTheDocument();
  expect(screen.queryByRole('switch', { name: "At another rate than the timeline's" })).not.toBeInTheDocument();
  expect(screen.getByRole('switch', { name: 'Bring its sound to a peak' })).toBeVisible();
});

test('the peak of the sound is switched on at what most take, and typed within reach', async () => {
  const { user } = await shown();
  await user.click(screen.getByRole('switch', { name: 'Bring its sound to a peak' }));
  expect(form().peak).toBe(-1);
  const field = screen.getByLabelText('True peak in the file');
  await user.clear(field);
  await user.type(field, '-3.5');
  expect(form().peak).toBe(-3.5);
  await user.click(screen.getByRole('switch', { name: 'Bring its sound to a peak' }));
  expect(form().peak).toBeNull();
});

test('without sound there is no peak to bring it to', async () => {
  const { user } = await shown();
  await user.click(screen.getByRole('switch', { name: 'Sound' }));
  expect(form().sound).toBe('off');
  expect(screen.queryByRole('switch', { name: 'Bring its sound to a peak' })).not.toBeInTheDocument();
});

test('another rate counts from when it is typed, and goes when it is switched off', async () => {
  const { user, choose } = await shown();
  const other = screen.getByRole('switch', { name: "At another rate than the timeline's" });
  await user.click(other);
  expect(form().rate).toBeNull();
  await user.type(screen.getByLabelText('Rate of the render'), '29.97');
  expect(form().rate).toEqual({ num: 30000, den: 1001 });
  await choose("Frames between the timeline's", /made by motion/);
  expect(form().way).toBe('motion');
  await user.click(other);
  expect(form().rate).toBeNull();
});

test('a name that is no file name is told at its field', async () => {
  const { user } = await shown();
  const name = screen.getByLabelText('Name');
  await user.type(name, 'reel/one');
  expect(screen.getByText(/^Leave out/)).toBeVisible();
  await user.clear(name);
  await user.type(name, 'reel one');
  expect(screen.queryByText(/^Leave out/)).not.toBeInTheDocument();
  expect(useRenderWishes.getState().name).toBe('reel one');
});

test('a folder is asked for where there are several', async () => {
  const folders = [
    { name: 'renders', path: '/data/renders' },
    { name: 'reels', path: '/data/reels' },
  ];
  const { choose } = await shown({ outputs: { folders } as OutputsReply });
  await choose('Folder', /reels/);
  expect(useRenderWishes.getState().folder).toBe('reels');
});

test('one folder alone is not asked for', async () => {
  await shown({ outputs: { folders: [{ name: 'renders', path: '/data/renders' }] } as OutputsReply });
  expect(screen.queryByRole('combobox', { name: 'Folder' })).not.toBeInTheDocument();
});

test('a form is kept under a name, chosen again and forgotten', async () => {
  const { fake, user, choose } = await shown();
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  const naming = within(await screen.findByRole('dialog'));
  expect(naming.getByRole('button', { name: 'Keep form' })).toBeDisabled();
  await user.type(naming.getByLabelText('Keep this form as'), 'for the web');
  await user.click(naming.getByRole('button', { name: 'Keep form' }));
  const kept = screen.getByRole('combobox', { name: 'Kept forms' });
  await waitFor(() => expect(kept).toHaveValue('for the web'));
  await user.click(screen.getByRole('switch', { name: 'Timecode' }));
  expect(kept).toHaveValue('');
  await choose('Kept forms', /for the web/);
  await waitFor(() => expect(kept).toHaveValue('for the web'));
  await user.click(screen.getByRole('button', { name: 'Forget for the web' }));
  await waitFor(() => expect(fake.server.of('removePreset')).toHaveLength(1));
  await waitFor(() => expect(kept).toHaveValue(''));
});

test('what is edited on has one quality, its codec its depths and colour', async () => {
  const { choose } = await shown();
  await choose('Form', /^MOV/);
  expect(screen.queryByLabelText('Quality')).not.toBeInTheDocument();
  expect(screen.getByText(/^ProRes 422 HQ, 4:2:2, 10 bit: made to be worked on again/)).toBeVisible();
  expect(screen.queryByRole('combobox', { name: 'Depth' })).not.toBeInTheDocument();
  await choose('Pictures are coded as', /^DNxHR/);
  await choose('Depth', /^10 bit/);
  expect(form()).toMatchObject({ codec: 'dnxhr', depth: 10 });
  await choose('Pictures are coded as', /^MPEG-2/);
  expect(form()).toMatchObject({ codec: 'mpeg2', quality: 3 });
  expect(screen.getByTestId('quality-words')).toHaveTextContent('3 is as good as the original to the eye. The finest is 1.');
});

test('numbered pictures are red, green and blue, of 8 or 16 bit, by any name; Matroska has every kind', async () => {
  const { choose, user } = await shown();
  await choose('Form', /^Numbered PNG/);
  expect(screen.queryByRole('combobox', { name: 'Colour detail' })).not.toBeInTheDocument();
  await choose('Depth', /^16 bit/);
  expect(form()).toMatchObject({ kind: 'png', depth: 16, numbered: null });
  await user.type(screen.getByLabelText('Each picture is called'), 'thaw-');
  expect(screen.getByText('Say where the number goes: shot-####')).toBeVisible();
  await user.type(screen.getByLabelText('Each picture is called'), '####');
  await user.clear(screen.getByLabelText('Counted from'));
  await user.type(screen.getByLabelText('Counted from'), '1001');
  expect(form().numbered).toEqual({ name: 'thaw-####', first: 1001 });
  await choose('Form', /^Numbered EXR/);
  expect(screen.getByText(/^Light itself, in half floats/)).toBeVisible();
  await choose('Form', /^Matroska/);
  await choose('Colour detail', /^RGB/);
  await choose('Depth', /^12 bit/);
  expect(form()).toMatchObject({ kind: 'mkv', chroma: 'rgb', depth: 12 });
});

test('a grade is chosen by its name, and how sound is coded where there is a choice', async () => {
  const { choose } = await shown();
  expect(screen.queryByRole('combobox', { name: 'Sound is coded as' })).not.toBeInTheDocument();
  await choose('Form', /ProRes/);
  await choose('Grade', /422 Proxy/);
  await choose('Sound is coded as', /16 bit/);
  expect(form()).toMatchObject({ grade: 3, soundCodec: 'pcm16' });
  await choose('Colour detail', /4:4:4/);
  expect(screen.queryByRole('combobox', { name: 'Grade' })).not.toBeInTheDocument();
  await choose('Form', /^Sound alone/);
  await choose('Its WAV holds', /float/);
  expect(form().soundCodec).toBe('pcm32f');
});

test('film is spread over fields at a rate of its own: no other is asked', async () => {
  const { choose } = await shown({ at: 24 });
  act(() => useRenderWishes.getState().change({ kind: 'mp4', codec: null, rate: rate(25) }));
  await choose('Frames hold', /^film by 2:3, bottom first/);
  expect(form()).toMatchObject({ rate: null, fields: { order: 'bottom', pulldown: true } });
  expect(screen.queryByRole('switch', { name: /^At another rate/ })).not.toBeInTheDocument();
  await choose('Frames hold', /^whole pictures/);
  expect(screen.getByRole('switch', { name: /^At another rate/ })).toBeVisible();
});
