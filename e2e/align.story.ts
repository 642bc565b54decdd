import { spawnSync } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, rig, Server, shell } from './thaw.js';

/** Align: two cameras of one event are brought together, looked at at both ends, mended by hand, placed, rendered and heard. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let project = '';

test.describe.configure({ mode: 'serial' });

type Clip = {
  sourceId: string;
  laneId: string;
  start: number;
  level: number;
  sound: string | null;
  speed: { num: number; den: number };
};
type Document = {
  sources: { id: string; name: string }[];
  timelines: { id: string; name: string; clips: Clip[] }[];
  alignments: { ties: { a: number; b: number }[] }[];
};

const { ask } = server;
const document = async (): Promise<Document> => (await ask<{ document: Document }>(`/projects/${project}`)).document;
const facts = () => page.getByTestId('pair-facts');

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const paths = clips('skiff-a', 'skiff-b', 'warden-interview');
  await server.start();
  const made = await fetch(`${server.url}/api/projects`, {
    method: 'POST',
    body: JSON.stringify({ name: 'Two shores' }),
    headers: { 'content-type': 'application/json' },
  });
  project = ((await made.json()) as { id: string }).id;
  const form = new FormData();
  for (const path of paths) form.append('file', new Blob([await readFile(path)]), path.split('/').at(-1));
  const reply = await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  if (!reply.ok) throw new Error(await reply.text());
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(message.text());
  });
  await page.goto(`${server.url}/p/${project}/align`);
});
test.afterAll(() => server.remove());

async function choosePair(a: string, b: string): Promise<void> {
  await page.getByRole('combobox', { name: 'The recording that leads' }).click();
  await page.getByRole('option', { name: new RegExp(`^${a}`) }).click();
  await page.getByRole('combobox', { name: 'The recording that follows' }).click();
  await page.getByRole('option', { name: new RegExp(`^${b}`) }).click();
}

test('two recordings are chosen, and their sounds say where they belong together', async () => {
  await expect(page.getByRole('heading', { name: 'Two recordings of one event' })).toBeVisible();
  await choosePair('skiff-a', 'skiff-b');
  await expect(facts()).toContainText(/\+24[0-4]\.\d ppm/, { timeout: 90_000 });
  await expect(facts()).toContainText('1.2360 s later');
  await expect(facts()).toContainText('3.6 frames in 10 min');
  await expect(page.getByTestId('align-state')).toContainText('found by sound');
  await expect(page.getByTestId('waves')).toHaveAttribute('data-ready', 'true', { timeout: 60_000 });
});

test('at both ends both pictures show the lamp: the same moment, to the picture', async () => {
  const first = page.getByTestId('tie-0');
  await expect(first.getByTestId('side-a')).toBeVisible();
  await expect(first.getByTestId('tie-left')).toContainText(/off by -?0\.\d\d ms/);
  const seen = async (side: 'a' | 'b'): Promise<number> =>
    Number(await first.getByTestId(`side-${side}`).getAttribute('data-picture'));
  const { ties } = await ask<{ ties: { a: number; b: number }[] }>(
    `/projects/${project}/aligned/${(await document()).sources[0]?.id}/${(await document()).sources[1]?.id}`,
  );
  expect(await seen('a')).toBe(Math.floor(((ties[0]?.a ?? 0) / 1e6) * 25));
  expect(await seen('b')).toBe(Math.floor((((ties[0]?.b ?? 0) / 1e6) * 30_000) / 1001));
  await expect(page.getByText('Last tie')).toBeVisible();
});

test('a tie is nudged by a millisecond: what is left over follows, and undo takes it back', async () => {
  await page.getByTestId('tie-0').getByRole('button', { name: 'skiff-b a millisecond later' }).click();
  await expect(page.getByTestId('align-state')).toContainText('by hand');
  await expect(page.getByTestId('tie-0').getByTestId('tie-left')).not.toContainText(/off by -?0\.0\d ms/);
  const kept = (await document()).alignments[0]?.ties.length ?? 0;
  expect(kept).toBeGreaterThan(3);
  // Each press counts, though the change before is still on its way.
  const b = async (): Promise<number> => (await document()).alignments[0]?.ties[0]?.b ?? 0;
  const from = await b();
  const later = page.getByTestId('tie-0').getByRole('button', { name: 'skiff-b a millisecond later' });
  await page.route('**/commands', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 300));
    await route.continue();
  });
  for (let i = 0; i < 3; i++) await later.click();
  await expect.poll(b).toBe(from + 3000);
  await page.unroute('**/commands');
  for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('align-state')).toContainText('found by sound');
});

test('a moment is tied by keys, chosen, and untied', async () => {
  const before = Number(/(\d+) ties/.exec((await page.getByTestId('align-state').textContent()) ?? '')?.[1]);
  await page.getByTestId('here').getByText('Here, as a test').click();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('t');
  await expect(page.getByTestId('align-state')).toContainText(`${before + 1} ties by hand`);
  await page.keyboard.press('n');
  await expect(page).toHaveURL(/\/0$/);
  await page.keyboard.press('n');
  await expect(page).toHaveURL(/\/1$/);
  await page.keyboard.press('Delete');
  await expect(page.getByTestId('align-state')).toContainText(`${before} ties by hand`);
});

test('the second one is placed beside the first, what will be said before', async () => {
  await page.getByRole('button', { name: /^Place skiff-b/ }).click();
  await expect(page.getByTestId('place-outcome')).toContainText('100.024');
  await page.getByRole('button', { name: 'Place it on skiff-a and skiff-b' }).click();
  await expect(page).toHaveURL(/\/timelines\//);
  await expect(page.getByTestId('clip-skiff-b-picture')).toBeVisible();
  const [timeline] = (await document()).timelines;
  const [a, b] = ['skiff-a', 'skiff-b'].map((name) =>
    timeline?.clips.find((c) => c.laneId.startsWith('p') && nameOf(c) === name),
  );
  expect([a?.start, b?.start]).toEqual([0, 31]);
  expect((b?.speed.num ?? 0) / (b?.speed.den ?? 1)).toBeCloseTo(1.000243, 5);
});

let names = new Map<string, string>();
function nameOf(clip: Clip): string {
  return names.get(clip.sourceId) ?? '';
}
test.beforeEach(async () => {
  names = new Map((await document()).sources.map((s) => [s.id, s.name]));
});

test('its sound is chosen, measured and brought up', async () => {
  await page.getByTestId('clip-skiff-b-sound').click();
  const panel = page.getByTestId('sound-panel');
  await expect(panel).toContainText('LUFS', { timeout: 30_000 });
  await panel.getByRole('button', { name: /^Bring up to/ }).click();
  await expect(panel).toContainText(/\u22121\.\d dBTP/);
  await panel.getByText('keeps its pitch').click();
  const sound = async (): Promise<Clip | undefined> =>
    (await document()).timelines[0]?.clips.find((c) => c.laneId.startsWith('s') && nameOf(c) === 'skiff-b');
  await expect.poll(async () => (await sound())?.sound).toBe('pitch');
  expect((await sound())?.level).toBeGreaterThan(0);
});

test('what is rendered is in sync: the placed sound, alone in the file, lies to the leading one where it should', async () => {
  test.setTimeout(180_000);
  await page.getByTestId('sound-panel').getByText('goes with the speed').click();
  await page.getByTestId('clip-skiff-a-sound').click();
  await page.getByTestId('sound-panel').getByText('off', { exact: true }).click();
  await expect(page.getByTestId('sound-panel')).toContainText('nothing is heard');
  await page.getByRole('link', { name: 'Render what you send' }).click();
  await expect(page.getByTestId('price')).toBeVisible();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByText('each frame its own').first()).toBeVisible({ timeout: 150_000 });
  const [receipt] = await ask<{ jobId: string; lines: { same: boolean }[] }[]>(`/projects/${project}/receipts`);
  expect(receipt?.lines.filter((l) => !l.same)).toEqual([]);
  const rendered = join(server.folder, 'rendered.mp4');
  const reply = await fetch(`${server.url}/api/jobs/${receipt?.jobId}/file`);
  await writeFile(rendered, Buffer.from(await reply.arrayBuffer()));
  const found = JSON.parse(shell('align', rig('skiff-a.mp4'), rendered, '--json'));
  expect(found.certainty).toBeGreaterThan(0.9);
  expect(Math.abs(found.offsetSeconds)).toBeLessThan(0.001);
  // Over sixteen seconds between claps, a tenth of a millisecond is 6 ppm; left alone it would be 243.
  expect(Math.abs(found.driftPpm)).toBeLessThan(6);
});

test('a third recording is listened to as well; both ways round agree, and all are placed in one step', async () => {
  // A recorder on the shore: it was started three seconds before skiff-a, and its clock runs 417 ppm slow.
  const wav = join(server.folder, 'shore-recorder.wav');
  const made = ['-i', rig('skiff-a.mp4'), '-vn', '-af', 'adelay=3000:all=1,asetrate=48020,aresample=48000', '-ac', '1', wav];
  expect(spawnSync('ffmpeg', ['-nostdin', '-v', 'error', ...made]).status).toBe(0);
  const form = new FormData();
  form.append('file', new Blob([await readFile(wav)]), 'shore-recorder.wav');
  await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  const followers = page.getByTestId('followers');
  await page.getByRole('link', { name: 'Align two recordings' }).click();
  await choosePair('skiff-b', 'shore-recorder');
  await expect(page.getByTestId('align-state')).toContainText('found by sound', { timeout: 90_000 });
  await choosePair('skiff-a', 'skiff-b');
  // Tied to skiff-b alone, it follows by way of it.
  await expect(followers).toContainText('by way of skiff-b');
  await page.getByRole('button', { name: 'Align more by sound' }).click();
  await page.getByRole('combobox', { name: 'Do these belong to skiff-a?' }).click();
  await page.getByRole('option', { name: 'shore-recorder' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Find by sound' }).last().click();
  const recorder = followers.getByRole('button', { name: 'shore-recorder' });
  await expect(recorder).toContainText(/\u221241[67]\.\d ppm/, { timeout: 90_000 });
  await expect(recorder).toContainText(/0\.\d\d ms off by way of skiff-b/);
  await followers.getByRole('button', { name: 'Place all 2' }).click();
  await page.getByTestId('place-sheet').getByRole('combobox', { name: 'On' }).click();
  await page.getByRole('option', { name: /^a new timeline of all/ }).click();
  await expect(page.getByTestId('place-outcome')).toContainText('shore-recorder begins at frame');
  await page.getByRole('button', { name: 'Place them on skiff-a and 2 more' }).click();
  await expect(page).toHaveURL(/\/timelines\//);
  const timeline = (await document()).timelines.find((t) => t.name === 'skiff-a and 2 more');
  expect(timeline?.clips).toHaveLength(5);
});

test('sounds of two events are refused in words', async () => {
  await page.getByRole('link', { name: 'Align two recordings' }).click();
  await choosePair('skiff-a', 'warden-interview');
  await expect(page.getByTestId('no-match')).toContainText('do not match', { timeout: 90_000 });
  expect(complaints).toEqual([]);
});
