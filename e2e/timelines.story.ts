import { writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, rig, Server } from './thaw.js';

/** Timelines: many rates, carrying, editing, the weave, playing, edit files. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let project = '';

test.describe.configure({ mode: 'serial' });

type Document = {
  sources: { id: string; name: string; lost: unknown }[];
  timelines: {
    id: string;
    name: string;
    rate: { num: number; den: number };
    range: { from: number; to: number } | null;
    clips: {
      id: string;
      start: number;
      length: number;
      laneId: string;
      inPicture: number;
      link: string | null;
      fit: string;
      dissolve?: object;
    }[];
  }[];
};

const { ask } = server;
const document = async (): Promise<Document> => (await ask<{ document: Document }>(`/projects/${project}`)).document;
const timeline = async (name: string) => {
  const found = (await document()).timelines.find((t) => t.name === name);
  if (!found) throw new Error(`no timeline ${name}`);
  return found;
};

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const paths = clips('warden-interview', 'jetty-pan', 'floe-drift');
  await server.start();
  project = (await ask<{ id: string }>('/projects', { name: 'Thaw' })).id;
  const form = new FormData();
  for (const path of [...paths, rig('ridge-still', 'ridge-still.png')])
    form.append('file', new Blob([await readFile(path)]), path.split('/').at(-1));
  const reply = await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  if (!reply.ok) throw new Error(await reply.text());
  page = await browser.newPage();
  page.on('pageerror', (error) => complaints.push(error.message));
  await page.goto(`${server.url}/p/${project}/timelines`);
});
test.afterAll(() => server.remove());

const clip = (name: string, kind = 'picture') => page.getByTestId(`clip-${name}-${kind}`);
const frame = async (): Promise<number> => Number(await page.getByTestId('viewer').getAttribute('data-frame'));
const tab = (name: string) => page.getByTestId(`tab-${name}`);
const dialog = () => page.getByRole('dialog');
const undo = () => page.getByRole('button', { name: 'Undo' }).click();
const place = (name: string) => page.getByTitle(`Place ${name} at the end`).click();
async function goTo(text: string): Promise<void> {
  await page.getByLabel('Playhead').fill(text);
  await page.getByLabel('Playhead').press('Enter');
  await page.getByLabel('Playhead').blur();
}

test('a timeline begins at the timecode it is given, and an empty one simply changes its rate', async () => {
  await page.getByRole('button', { name: 'New timeline' }).click();
  await dialog().getByLabel('Name').fill('Cut');
  await dialog().getByLabel('Rate').fill('29.97');
  await dialog().getByRole('switch', { name: 'Drop-frame timecode' }).click();
  await dialog().getByLabel('Starts at').fill('01:00:00;00');
  await dialog().getByLabel('Width').fill('320');
  await dialog().getByLabel('Height').fill('180');
  await dialog().getByRole('button', { name: 'Make it at 29.97' }).click();
  await expect(page.getByTestId('ruler')).toContainText('01:00:00;00');
  await page.getByRole('button', { name: 'More for this timeline' }).click();
  await page.getByRole('menuitem', { name: 'Name, rate, frame size, timecode' }).click();
  await dialog().getByLabel('Rate').fill('25');
  await dialog().getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByTestId('ruler')).toContainText('01:00:00:00');
});

test('keys are quicker than the server: each counts, and an undo takes back the change that is still on its way', async () => {
  await place('warden-interview');
  await expect(clip('warden-interview')).toBeVisible();
  await page.route('**/commands', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 300));
    await route.continue();
  });
  await clip('warden-interview').focus();
  await page.keyboard.press('Alt+ArrowRight');
  await undo();
  await expect(page.getByRole('button', { name: 'Redo' })).toBeEnabled();
  await expect(clip('warden-interview')).toHaveAccessibleName(/frame 0, 400 frames/);
  await clip('warden-interview').click();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+Alt+ArrowLeft');
  await goTo('50');
  await page.keyboard.press('b');
  await goTo('99');
  await page.keyboard.press('e');
  await expect.poll(async () => (await timeline('Cut')).range).toEqual({ from: 50, to: 100 });
  expect((await timeline('Cut')).clips[0]?.length).toBe(397);
  await page.unroute('**/commands');
  for (let i = 0; i < 5; i++) await undo();
  await expect(clip('warden-interview')).toHaveAccessibleName(/frame 0, 400 frames/);
  await page.keyboard.press('Escape');
});

test('who leaves for a view whose script is still on its way gets there', async ({ browser }) => {
  const other = await browser.newPage();
  await other.route('**/RenderView*.js', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 1200));
    await route.continue();
  });
  await other.goto(page.url());
  await expect(other.getByTestId('ruler')).toBeVisible();
  // The playhead writes itself into the address a moment later: that must not stop the way to the other view.
  const link = other.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: /Render/ });
  await link.hover();
  await other.keyboard.press('ArrowRight');
  // A press alone: within the tenth of a second that a quick hand takes.
  await link.dispatchEvent('click');
  await expect(other.getByTestId('price')).toBeVisible();
  await other.close();
});

test('places are typed as timecode, digits, frames and moves, and the field says what it understood', async () => {
  const playhead = page.getByLabel('Playhead');
  for (const [text, wanted] of [
    ['1:0:2:4', 54],
    ['01000104', 29],
    ['100', 100],
    ['+12', 112],
    ['-1s', 87],
  ] as const) {
    await playhead.fill(text);
    await expect(page.getByRole('status').filter({ hasText: `frame ${wanted}` })).toBeVisible();
    await playhead.press('Enter');
    await expect.poll(frame).toBe(wanted);
  }
  await playhead.fill('0:75:00');
  await expect(page.getByText('no such frame')).toBeVisible();
  await playhead.press('Escape');
  await playhead.blur();
});

test('clips are split, slipped, linked and unlinked, gaps closed, by buttons and keys', async () => {
  await goTo('120');
  await page.getByRole('button', { name: 'Split' }).click();
  await expect.poll(async () => (await timeline('Cut')).clips.length).toBe(4);
  await undo();
  await expect.poll(async () => (await timeline('Cut')).clips.length).toBe(2);
  await page.locator('main').click({ position: { x: 4, y: 4 } });
  await page.keyboard.press('/');
  await expect.poll(async () => (await timeline('Cut')).clips.length).toBe(4);
  const right = page.getByRole('button', { name: /warden-interview on Picture 1, frame 120/ });
  // What stands to the right uses its source to the end: it cannot slip on.
  await right.click();
  await page.keyboard.press('Period');
  await expect(page.getByText('warden-interview has no pictures there')).toBeVisible();
  await page.getByRole('button', { name: /warden-interview on Picture 1, frame 0/ }).click();
  await goTo('100');
  await page.locator('main').click({ position: { x: 4, y: 4 } });
  await page.keyboard.press('Period');
  await page.keyboard.press('Period');
  await expect.poll(async () => (await timeline('Cut')).clips.find((c) => c.start === 0 && c.laneId === 'p1')?.inPicture).toBe(2);
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-picture', '102');
  await undo();
  await undo();
  await right.click();
  await page.getByRole('button', { name: 'More for this clip' }).click();
  await page.getByRole('menuitem', { name: 'Unlink picture and sound' }).click();
  await right.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Alt+ArrowRight');
  await expect
    .poll(async () => (await timeline('Cut')).clips.map((c) => `${c.laneId} ${c.start}`).sort())
    .toEqual(['p1 0', 'p1 123', 's1 0', 's1 120']);
  for (let i = 0; i < 4; i++) await undo();
  await expect.poll(async () => (await timeline('Cut')).clips.filter((c) => c.link !== null).length).toBe(4);
  await page.getByRole('button', { name: /warden-interview on Picture 1, frame 0/ }).click();
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await timeline('Cut')).clips.length).toBe(2);
  await page.getByRole('button', { name: 'Close gaps' }).click();
  await expect.poll(async () => (await timeline('Cut')).clips.map((c) => c.start)).toEqual([0, 0]);
  await undo();
  await page.getByTestId('lane-s1').getByRole('button', { name: 'Sound 1', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Close gaps on Sound 1' }).click();
  await expect.poll(async () => (await timeline('Cut')).clips.map((c) => c.start)).toEqual([0, 0]);
});

test('clips are dragged, snap to cuts, and several go together', async () => {
  await place('jetty-pan');
  await expect(clip('jetty-pan')).toBeVisible();
  await page.keyboard.press('Home');
  const box = await clip('jetty-pan').boundingBox();
  const lane = await page.getByTestId('lane-p1').boundingBox();
  if (!box || !lane) throw new Error('not to be seen');
  const scale = box.width / 200;
  await page.mouse.move(box.x + 40, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 40 + 90 * scale, box.y + 10, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => (await timeline('Cut')).clips.find((c) => c.length === 200)?.start).toBeGreaterThan(330);
  const away = await clip('jetty-pan').boundingBox();
  if (!away) throw new Error('not to be seen');
  // Back to within a few pixels of where the interview ends: it snaps there.
  const back = ((await timeline('Cut')).clips.find((c) => c.length === 200)?.start ?? 0) - 280;
  await page.mouse.move(away.x + 40, away.y + 10);
  await page.mouse.down();
  await page.mouse.move(away.x + 40 - (back * away.width) / 200 + 4, away.y + 10, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => (await timeline('Cut')).clips.find((c) => c.length === 200)?.start).toBe(280);
  await clip('warden-interview').click();
  await clip('jetty-pan').click({ modifiers: ['Control'] });
  await expect(page.getByTestId('clip-panel')).toContainText('2 clips');
  await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(async () => (await timeline('Cut')).clips.map((c) => c.start)).toEqual([1, 1, 281, 281]);
  await page.keyboard.press('Alt+ArrowLeft');
  await page.keyboard.press('Escape');
});

test('a clip comes in by a dissolve: drawn, seen in the viewer, and a cut again', async () => {
  await page.getByRole('button', { name: /jetty-pan on Picture 1, frame 280/ }).click();
  const row = page.getByTestId('dissolve');
  await row.getByText('dissolve', { exact: true }).click();
  await row.getByLabel('Frames of the dissolve').fill('20');
  await row.getByLabel('Frames of the dissolve').press('Enter');
  const comesIn = async () => (await timeline('Cut')).clips.find((c) => c.start === 280 && c.dissolve)?.dissolve;
  await expect.poll(comesIn).toMatchObject({ before: 10, after: 10 });
  await expect(page.getByRole('img', { name: 'Dissolve over 20 frames' })).toBeVisible();
  await row.getByText('after', { exact: true }).click();
  await expect.poll(comesIn).toMatchObject({ before: 0, after: 20 });
  await goTo('290');
  await expect(page.getByLabel('Viewer', { exact: true })).toContainText('dissolve 52%');
  await expect(page.getByTestId('viewer').locator('img')).toHaveCount(2);
  await row.getByText('cut', { exact: true }).click();
  await expect.poll(comesIn).toBeUndefined();
  for (let i = 0; i < 4; i++) await undo();
  await page.keyboard.press('Escape');
});

test('fits are compared for one clip and for all of a rate, evenness and price included', async () => {
  await place('jetty-pan');
  await expect.poll(async () => (await timeline('Cut')).clips.length).toBe(6);
  await page.getByRole('button', { name: /jetty-pan on Picture 1, frame 280/ }).click();
  await expect(page.getByTestId('fit-nearest')).toContainText('9.7 ms');
  await expect(page.getByTestId('fit-motion')).toContainText('198 made');
  await page.getByText('All 2 clips at 29.97').click();
  await expect(page.getByTestId('fit-nearest')).toContainText('16.00 s');
  await page.getByTestId('fit-blend').click();
  await expect.poll(async () => (await timeline('Cut')).clips.filter((c) => c.fit === 'blend').length).toBe(4);
  await undo();
  await expect.poll(async () => (await timeline('Cut')).clips.filter((c) => c.fit === 'blend').length).toBe(0);
});

test('a picture of another size is framed by choice, with what is cut off said', async () => {
  await place('ridge-still');
  await expect(clip('ridge-still')).toBeVisible();
  await expect(page.getByTestId('framing')).toBeVisible();
  await page.getByTestId('framing').getByText('Fill', { exact: true }).click();
  await expect(page.getByTestId('framing')).toContainText(/cut off|fills the frame/);
  await page.getByTestId('framing').getByText('As is').click();
  await expect(page.getByTestId('framing')).toContainText('cut off');
  await undo();
  await undo();
});

test('the weave goes from a film strip to the whole clip; hitches are listed with their timecode', async () => {
  await page.getByRole('button', { name: /jetty-pan on Picture 1, frame 280/ }).click();
  await goTo('300');
  await expect(page.getByTestId('weave')).toHaveAttribute('data-unit', /^4/);
  await expect(page.getByTestId('screen-line')).toBeVisible();
  // 25 on 60 Hz: 3 2 3 2 2 by the frame's number on the timeline.
  const refreshes = await page
    .getByTestId('screen-line')
    .locator('g')
    .evaluateAll((all) => all.map((g) => Number(g.getAttribute('data-refreshes'))));
  expect(refreshes.slice(0, 5).reduce((a, b) => a + b)).toBe(12);
  await page.getByRole('button', { name: 'Weave closer' }).click();
  await expect(page.getByTestId('weave').locator('image').first()).toBeVisible();
  for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'See more of the weave' }).click();
  await expect(page.getByTestId('weave-whole')).toBeVisible();
  await page.keyboard.press('Shift+W');
  await page.keyboard.press('Shift+W');
  await page.keyboard.press('Shift+W');
  await expect(page.getByTestId('weave')).toBeVisible();
  await page.getByTestId('hitches').click();
  const list = page.getByTestId('hitch-list').getByRole('button');
  await expect(list.first()).toHaveText(/^01:00:\d\d:\d\d$/);
  const second = await list.nth(1).textContent();
  await list.nth(1).click();
  await page.keyboard.press('Escape');
  await expect(page.getByLabel('Playhead')).toHaveValue(second ?? '');
});

test('it plays with exactly the pictures of the step map, counting what the player leaves out', async () => {
  await page.getByRole('button', { name: /jetty-pan on Picture 1, frame 280/ }).click();
  await goTo('290');
  await page.evaluate(() => {
    const seen: [number, string][] = [];
    Object.assign(window, { seen });
    const player = globalThis.document.querySelector('[data-testid=player]') as HTMLCanvasElement;
    new MutationObserver(() => seen.push([Number(player.dataset.frame), player.dataset.picture ?? ''])).observe(player, {
      attributes: true,
      attributeFilter: ['data-picture'],
    });
  });
  await page.keyboard.press('Space');
  await expect(page.getByTestId('player-count')).toContainText('player left out', { timeout: 20_000 });
  await expect
    .poll(() => page.evaluate(() => (window as unknown as { seen: unknown[] }).seen.length), { timeout: 30_000 })
    .toBeGreaterThan(12);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  const seen = await page.evaluate(() => (window as unknown as { seen: [number, string][] }).seen);
  const start = 280;
  for (const [at, picture] of seen) expect(picture).toBe(String(Math.floor(((at - start) * 30000) / (1001 * 25))));
  expect(await frame()).toBeGreaterThan(290);
  // Stopped again before its sound has come: the browser has nothing to complain of.
  await page.route('**/timelines/*/sound?*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 500));
    await route.continue().catch(() => undefined);
  });
  const asked = page.waitForRequest('**/timelines/*/sound?*');
  await page.keyboard.press('Space');
  await asked;
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.unroute('**/timelines/*/sound?*');
});

test('the viewing speed stands in the rate chain as viewing only; the render keeps the rate', async () => {
  await page.getByRole('group', { name: 'Viewing speed' }).getByTitle('View at 2 times').click();
  await expect(page.getByTestId('viewing')).toContainText('Viewing only');
  await expect(page.getByTestId('viewing')).toContainText('50');
  await expect(page.getByTestId('rate-chain').getByRole('link', { name: /Render/ })).toContainText('25');
  await page.keyboard.press('v');
  await expect(page.getByTestId('viewing')).toContainText('100');
  await page.getByRole('group', { name: 'Viewing speed' }).getByTitle('View at 1 times').click();
});

test('in and out are set by keys and rendered alone', async () => {
  test.setTimeout(120_000);
  await goTo('40');
  await page.keyboard.press('b');
  await expect.poll(async () => (await timeline('Cut')).range?.from).toBe(40);
  await goTo('64');
  await page.keyboard.press('e');
  await expect.poll(async () => (await timeline('Cut')).range).toEqual({ from: 40, to: 65 });
  await expect(page.getByTestId('range')).toBeVisible();
  await page
    .getByRole('navigation', { name: 'Views' })
    .getByRole('link', { name: /Render/ })
    .click();
  await page.getByText('In to out').click();
  await expect(page.getByTestId('price')).toContainText('25 frames');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toHaveText('As asked', { timeout: 90_000 });
  await expect(page.getByTestId('line-frames')).toContainText('25');
  await page
    .getByRole('navigation', { name: 'Views' })
    .getByRole('link', { name: /Timelines/ })
    .click();
});

test('carrying shows what each cut moves by and makes a timeline beside the old one', async () => {
  await page.getByRole('button', { name: 'Carry to another rate' }).click();
  await dialog().getByLabel('Carry to', { exact: true }).fill('24');
  await expect(dialog().getByTestId('carry-report')).toContainText('half a frame is 20.83 ms');
  await expect(dialog().getByTestId('carry-report')).toContainText('jetty-pan');
  await dialog().getByRole('button', { name: 'Carry to 24' }).click();
  await expect(tab('Cut 24')).toHaveAttribute('aria-pressed', 'true');
  const [old, made] = [await timeline('Cut'), await timeline('Cut 24')];
  expect(made.rate).toEqual({ num: 24, den: 1 });
  for (const [i, c] of old.clips.entries())
    expect(Math.abs(c.start / 25 - (made.clips[i]?.start ?? -1) / 24)).toBeLessThanOrEqual(0.5 / 24 + 1e-9);
});

test('a rate typed for a timeline with clips leads to carrying, not to a silent change', async () => {
  await page.getByRole('button', { name: 'More for this timeline' }).click();
  await page.getByRole('menuitem', { name: 'Name, rate, frame size, timecode' }).click();
  await dialog().getByLabel('Rate').fill('50');
  await expect(dialog()).toContainText('has clips, which another rate would re-time');
  await dialog().getByRole('button', { name: 'Carry the edit to 50' }).click();
  await expect(page.getByRole('dialog', { name: /Carry Cut 24/ }).getByTestId('carry-report')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog()).toHaveCount(0);
  expect((await timeline('Cut 24')).rate).toEqual({ num: 24, den: 1 });
});

test('clips are copied from 25 and pasted to 24 in real time', async () => {
  await tab('Cut').click();
  await expect(tab('Cut')).toHaveAttribute('aria-pressed', 'true');
  await clip('warden-interview').click();
  await page.keyboard.press('Control+c');
  await tab('Cut 24').click();
  await expect(tab('Cut 24')).toHaveAttribute('aria-pressed', 'true');
  const before = (await timeline('Cut 24')).clips.length;
  await page.keyboard.press('End');
  await page.keyboard.press('Control+v');
  await expect.poll(async () => (await timeline('Cut 24')).clips.length).toBe(before + 2);
  // 280 frames of 25 are 11.2 s: 268.8 frames of 24.
  expect((await timeline('Cut 24')).clips.slice(-2).map((c) => c.length)).toEqual([269, 269]);
  await undo();
});

test('a timeline stands in another one, shows its own rate, and is unpacked in place', async () => {
  await page.getByRole('button', { name: 'Timeline', exact: true }).click();
  await dialog().getByLabel('Name').fill('Festival');
  await dialog().getByLabel('Rate').fill('59.94');
  await dialog().getByLabel('Width').fill('320');
  await dialog().getByLabel('Height').fill('180');
  await dialog().getByRole('button', { name: 'Make it at 59.94' }).click();
  await expect(page.getByText('59.94 frames a second')).toBeVisible();
  await place('Cut 24');
  await expect(clip('Cut 24')).toBeVisible();
  await expect(page.getByTestId('clip-panel')).toContainText('a timeline at 24');
  await expect(page.getByTestId('viewer').locator('img').first()).toHaveAttribute('alt', /warden-interview/);
  await page.getByRole('button', { name: 'More for this clip' }).click();
  await page.getByRole('menuitem', { name: 'Unpack it in place' }).click();
  await expect(clip('warden-interview')).toBeVisible();
  await expect(clip('Cut 24')).toHaveCount(0);
  expect((await timeline('Festival')).clips).toHaveLength((await timeline('Cut 24')).clips.length);
});

test('a timeline is saved as OpenTimelineIO and as a list, with what they cannot say told before', async () => {
  await tab('Cut').click();
  await page.getByRole('button', { name: 'Save edit file' }).click();
  await expect(dialog().getByTestId('losses')).toContainText('In and out are left out');
  const otio = page.waitForEvent('download');
  await dialog()
    .getByRole('link', { name: /Save the .otio/ })
    .click();
  const saved = await otio;
  expect(saved.suggestedFilename()).toBe('Cut.otio');
  await saved.saveAs(join(server.folder, 'Cut.otio'));
  const json = JSON.parse(await readFile(join(server.folder, 'Cut.otio'), 'utf8'));
  expect(json.OTIO_SCHEMA).toBe('Timeline.1');
  const list = await (
    await fetch(`${server.url}/api/projects/${project}/timelines/${(await timeline('Cut')).id}/edit/edl`)
  ).text();
  expect(list).toContain('FCM: NON-DROP FRAME');
  expect(list).toMatch(/001 {2}WARDENIN V {5}C {8}00:00:04:20 00:00:16:00 01:00:00:00 01:00:11:05/);
});

test('edit files are opened: the good part at once, each trouble with its place, missing media to be found', async () => {
  await page.getByRole('button', { name: 'Open edit file' }).click();
  await dialog().getByLabel('Edit file').setInputFiles(join(server.folder, 'Cut.otio'));
  await dialog().getByRole('button', { name: 'Open it' }).click();
  await expect(dialog()).toHaveCount(0);
  await expect(clip('jetty-pan').first()).toBeVisible();
  const opened = (await document()).timelines.filter((t) => t.name === 'Cut');
  expect(opened).toHaveLength(2);
  const places = (t: (typeof opened)[number] | undefined) =>
    t?.clips.map((c) => `${c.laneId} ${c.start} ${c.length} ${c.inPicture}`).sort();
  expect(places(opened[1])).toEqual(places(opened[0]));
  const edl = [
    'TITLE: DESK',
    '001  PAN      V     C        00:00:01:00 00:00:03:00 01:00:00:00 01:00:02:00',
    '* FROM CLIP NAME: jetty-pan.mp4',
    '002  nonsense',
    '003  LOST     V     C        00:00:00:00 00:00:02:00 01:00:02:00 01:00:04:00',
    '* FROM CLIP NAME: old-reel.mov',
  ].join('\r\n');
  writeFileSync(join(server.folder, 'desk.edl'), edl);
  await page.getByRole('button', { name: 'Open edit file' }).click();
  await dialog().getByLabel('Edit file').setInputFiles(join(server.folder, 'desk.edl'));
  await dialog().getByLabel('Rate of the list').fill('25');
  await dialog().getByRole('button', { name: 'Open it' }).click();
  await expect(page.getByTestId('troubles')).toContainText('Line 4: This is no event');
  await expect(page.getByTestId('troubles')).toContainText('old-reel.mov is not among the sources yet');
  await dialog().getByRole('button', { name: 'Go on' }).click();
  await expect(clip('old-reel.mov')).toHaveAttribute('data-lost', 'true');
  await expect(clip('jetty-pan')).toBeVisible();
});

test('missing media are found: another source takes their place', async () => {
  const lost = (await document()).sources.find((s) => s.lost);
  await page.goto(`${server.url}/p/${project}/sources/${lost?.id}`);
  await expect(page.getByTestId('lost-notice')).toContainText('named by an edit file');
  await page.getByRole('combobox', { name: 'Which source it is' }).click();
  await page.getByRole('option', { name: 'floe-drift' }).click();
  await page.getByRole('button', { name: 'Use this source' }).click();
  await expect.poll(async () => (await document()).sources.filter((s) => s.lost).length).toBe(0);
  await page.goto(`${server.url}/p/${project}/timelines/${(await timeline('DESK')).id}`);
  await expect(clip('floe-drift')).toBeVisible();
});

test('a file that is no edit is refused by name and changes nothing', async () => {
  const before = (await document()).timelines.length;
  writeFileSync(join(server.folder, 'broken.otio'), '{"OTIO_SCHEMA": ');
  await page.getByRole('button', { name: 'Open edit file' }).click();
  await dialog().getByLabel('Edit file').setInputFiles(join(server.folder, 'broken.otio'));
  await expect(dialog().getByText(/broken.otio was not opened. This is not JSON/)).toBeVisible();
  await expect(dialog().getByRole('button', { name: 'Open it' })).toBeDisabled();
  await page.keyboard.press('Escape');
  expect((await document()).timelines).toHaveLength(before);
});

test('a timeline is duplicated, renamed and removed; what stands in another one is not', async () => {
  await tab('Festival').click();
  const more = (name: string | RegExp) =>
    page
      .getByRole('button', { name: 'More for this timeline' })
      .click()
      .then(() => page.getByRole('menuitem', { name }).click());
  await more('Duplicate Festival');
  await expect(tab('Festival copy')).toHaveAttribute('aria-pressed', 'true');
  await place('DESK');
  await expect(clip('DESK')).toBeVisible();
  await tab('DESK').click();
  await more('Remove DESK');
  await expect(page.getByText(/DESK is placed in Festival copy/)).toBeVisible();
  await tab('Festival copy').click();
  await more('Remove Festival copy');
  await expect(tab('Festival copy')).toHaveCount(0);
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
