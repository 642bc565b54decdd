import { spawnSync } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server } from './thaw.js';

/** Retime: a clip of 100 pictures is slowed and curved, what is made is looked at, changed, and rendered. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let project = '';

test.describe.configure({ mode: 'serial' });

type Pin = { frame: number; picture: number; way: string };
type Clip = {
  start: number;
  length: number;
  fit: string;
  curve: Pin[] | null;
  shutter: number;
  mix: string;
  instead: { frame: number; as: string }[];
};

const { ask } = server;
const clip = async (index = 0): Promise<Clip> => {
  const { document } = await ask<{ document: { timelines: { clips: Clip[] }[] } }>(`/projects/${project}`);
  const found = document.timelines[0]?.clips.toSorted((a, b) => a.start - b.start)[index];
  if (!found) throw new Error('no clip');
  return found;
};

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const [pan] = clips('jetty-pan');
  await server.start();
  project = (await ask<{ id: string }>('/projects', { name: 'Slow' })).id;
  const path = join(server.folder, 'pan-100.mp4');
  const cut = ['-an', '-frames:v', '100', '-vf', 'scale=320:180', '-c:v', 'libx264', '-crf', '16'];
  expect(spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-i', pan ?? '', ...cut, path]).status).toBe(0);
  const form = new FormData();
  form.append('file', new Blob([await readFile(path)]), 'pan-100.mp4');
  const reply = await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  if (!reply.ok) throw new Error(await reply.text());
  page = await browser.newPage();
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(message.text());
  });
  await page.goto(`${server.url}/p/${project}/retime`);
});
test.afterAll(() => server.remove());

const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: new RegExp(name) });
const tools = () => page.getByTestId('speed-tools');
const facts = () => page.getByTestId('retime-facts');
const between = (name: string) => page.getByRole('radiogroup', { name: 'Between pictures' }).getByText(name, { exact: true });
const undo = () => page.getByRole('button', { name: 'Undo' }).click();

test('with nothing placed it says what to do, and leads there', async () => {
  await expect(page.getByRole('heading', { name: 'Nothing to retime yet' })).toBeVisible();
  await page.getByRole('main').getByRole('button', { name: 'New timeline' }).click();
  await expect(page.getByRole('heading', { name: 'No timeline yet' })).toBeVisible();
  await page.getByRole('main').getByRole('button', { name: 'New timeline' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Rate').fill('29.97');
  await dialog.getByLabel('Width').fill('320');
  await dialog.getByLabel('Height').fill('180');
  await dialog.getByRole('button', { name: /^Make/ }).click();
  for (let k = 0; k < 2; k++) await page.getByTitle('Place pan-100 at the end').click();
  await view('Retime').click();
  await expect(page.getByTestId('curve-panel')).toContainText('none: one speed all through');
  await page.getByRole('combobox', { name: 'Clip' }).click();
  await page.getByRole('option', { name: /frames 0 to 99/ }).click();
});

test('a speed is typed, its outcome stands before it is taken, and what follows moves', async () => {
  const speed = tools().getByLabel('Speed');
  await speed.fill('0.5');
  await expect(tools().getByRole('status')).toContainText('Not a speed from 1 % to 10,000 %');
  await speed.fill('25');
  await expect(tools().getByRole('status')).toContainText('Runs 400 frames');
  await expect(tools().getByRole('status')).toContainText('300 frames longer; 1 clip after it moves');
  await speed.press('Enter');
  await expect(facts()).toContainText('400 frames');
  expect((await clip(1)).start).toBe(400);
  await expect(speed).toHaveValue('25 %');
  await undo();
  await expect(speed).toHaveValue('100 %');
  await page.getByText('keeps its place').click();
  await tools().getByLabel('Length').fill('200');
  await expect(tools().getByRole('status')).toContainText('50 %. Runs 100 frames');
  for (const nonsense of ['abc', '2.5', '0', '1e30']) {
    await tools().getByLabel('Length').fill(nonsense);
    await expect(tools().getByRole('status')).toContainText('Not a length');
  }
  await tools().getByLabel('Length').press('Escape');
  await page.getByText('what follows moves').click();
});

test('slow here makes four pins, and sand marks where pictures have to be made', async () => {
  await page.getByTestId('made-20').or(page.getByTestId('made-0')).first().click();
  await page.keyboard.press('Home');
  for (let k = 0; k < 10; k++) await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('compare')).toHaveAttribute('data-frame', '10');
  await tools().getByRole('button', { name: 'Slow here' }).click();
  await page.getByLabel('Frames to get there').fill('10');
  await page.getByLabel('Frames at that speed').fill('40');
  await page.getByRole('button', { name: 'Slow it' }).click();
  await expect(page.getByTestId('curve-panel')).toContainText('4 pins');
  // Ten frames down (6 pictures), forty at a quarter (10), ten up (6), normal again.
  expect((await clip()).curve?.map((p) => [p.frame, p.picture])).toEqual([
    [10, 10],
    [20, 16],
    [60, 26],
    [70, 32],
  ]);
  expect((await clip()).length).toBe(138);
  await expect(page.getByTestId('slow-run')).toHaveCount(1);
  await expect(page.getByTestId('slow-run')).toHaveAttribute('data-from', '10');
  await expect(page.getByTestId('slow-run')).toHaveAttribute('data-to', '70');
});

test('a pin is dragged and typed, each one step to undo; where it cannot stand is said at the field', async () => {
  const pin = page.getByTestId('pin-2');
  const box = await pin.boundingBox();
  if (!box) throw new Error('not to be seen');
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let k = 1; k <= 8; k++) await page.mouse.move(x - 4 * k, y - k);
  await page.mouse.up();
  await expect.poll(async () => (await clip()).curve?.[2]?.frame).toBeLessThan(60);
  await undo();
  await expect.poll(async () => (await clip()).curve?.[2]?.frame).toBe(60);
  await pin.focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await clip()).curve?.[2]?.picture).toBe(27);
  await undo();
  await pin.click();
  const frame = page.getByTestId('pin').getByLabel('Frame');
  await frame.fill('90');
  await frame.press('Enter');
  await expect(page.getByTestId('pin')).toContainText('Another pin stands on that frame');
  await frame.press('Escape');
  const picture = page.getByTestId('pin').getByLabel('Picture');
  await picture.fill('100');
  await picture.press('Enter');
  await expect(page.getByTestId('pin')).toContainText('The source has no such picture');
  await picture.press('Escape');
});

test('an eased stretch has two handles, and runs backward only where that is asked for', async () => {
  await page.getByTestId('pin-0').click();
  const handles = async () => ((await clip()).curve?.[0] as { handles?: number[] } | undefined)?.handles ?? [];
  const before = await handles();
  await page.getByTestId('handle-1').focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await handles())[3]).toBeCloseTo((before[3] ?? 0) + 0.05, 3);
  // Presses that come before the change of the one before has come back count as well.
  for (let k = 0; k < 3; k++) await page.keyboard.press('ArrowDown');
  await expect.poll(async () => (await handles())[3]).toBeCloseTo((before[3] ?? 0) - 0.1, 3);
  for (let k = 0; k < 12; k++) await page.keyboard.press('ArrowUp');
  // It stops at the next pin's height.
  await expect.poll(async () => (await handles())[3]).toBe(1);
  await page.getByLabel('may run back').click();
  await page.getByTestId('handle-1').focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await handles())[3]).toBe(1.05);
  await page.getByLabel('may run back').click();
  await expect.poll(async () => (await handles())[3]).toBe(1);
  const box = await page.getByTestId('handle-0').boundingBox();
  if (!box) throw new Error('not to be seen');
  await page.mouse.move(box.x + 5, box.y + 5);
  await page.mouse.down();
  await page.mouse.move(box.x + 9, box.y + 15, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await handles())[0]).toBeGreaterThan(before[0] ?? 0);
  await page.getByRole('radiogroup', { name: 'On to the next pin' }).getByText('even').click();
  await expect(page.getByTestId('handle-0')).toHaveCount(0);
  while (JSON.stringify(await handles()) !== JSON.stringify(before)) await ask(`/projects/${project}/undo`, {});
});

test('by motion pictures are made in the browser, each with how sure it is; the least sure is gone to', async () => {
  await between('motion').click();
  await page.getByTestId('made-11').click();
  await expect(page.getByTestId('made-11')).toHaveAttribute('data-state', 'made');
  await expect(page.getByTestId('made-11')).toHaveAttribute('data-ready', 'true');
  await expect(page.getByTestId('look-right')).toHaveAttribute('data-state', 'ready');
  await expect(page.getByTestId('made-progress')).toContainText(/all \d+ pictures made; least sure \d\.\d\d at frame \d+/, {
    timeout: 60_000,
  });
  const said = (await page.getByTestId('made-progress').textContent()) ?? '';
  const least = /at frame (\d+)/.exec(said)?.[1];
  await page.keyboard.press('u');
  await expect(page.getByTestId('compare')).toHaveAttribute('data-frame', least ?? '');
  // It lies between its neighbours: none of the pixels of nearest, where the pan has moved on.
  await page.getByRole('radiogroup', { name: 'How the two are shown' }).getByText('difference').click();
  const different = await page
    .getByTestId('compare')
    .locator('canvas')
    .evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement;
      const { data } = (canvas as HTMLCanvasElement).getContext('2d')?.getImageData(0, 0, width, height) ?? { data: [] };
      return data.filter((v, i) => i % 4 === 0 && v > 24).length / (data.length / 4);
    });
  expect(different).toBeGreaterThan(0.05);
  await page.getByRole('radiogroup', { name: 'How the two are shown' }).getByText('wipe').click();
});

test('for the unsure frame the nearest is taken instead, and stays in the edit', async () => {
  const at = Number(await page.getByTestId('compare').getAttribute('data-frame'));
  await page.keyboard.press('k');
  await expect(page.getByTestId(`made-${at}`)).toContainText('by hand');
  expect((await clip()).instead).toEqual([{ frame: at, as: 'nearest' }]);
  await page.getByRole('button', { name: 'Blend here' }).click();
  await expect(page.getByTestId(`made-${at}`)).toHaveAttribute('data-state', 'blended');
  await page.getByRole('combobox', { name: 'Mixed' }).click();
  await page.getByRole('option', { name: 'in linear light' }).click();
  await expect.poll(async () => (await clip()).mix).toBe('light');
  await expect(page.getByTestId(`made-${at}`).locator('[data-state="ready"]')).toBeVisible();
  await undo();
  await page.reload();
  await expect(page.getByTestId(`made-${at}`)).toHaveAttribute('data-state', 'blended');
  await page.keyboard.press('l');
  await expect(page.getByTestId(`made-${at}`)).toHaveAttribute('data-state', 'made');
  await undo();
});

test('in the edit the picture that was made stands in place of the mix', async () => {
  await page.locator('[data-state="made"][data-ready="true"]').first().click();
  const at = (await page.getByTestId('compare').getAttribute('data-frame')) ?? '';
  await view('Timelines').click();
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-frame', at);
  await expect(page.getByTestId('viewer-made')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Viewer' })).toContainText(/made 0\.\d\d/);
  await page.keyboard.press('Home');
  await expect(page.getByTestId('viewer-made')).toHaveCount(0);
  await view('Retime').click();
});

test('what an open shutter sees is made, too, and its frames are counted as made', async () => {
  await page.keyboard.press('Home');
  await expect(page.getByTestId('made-0')).toHaveAttribute('data-state', 'real');
  await page.getByRole('combobox', { name: 'Shutter' }).click();
  await page.getByRole('option', { name: '180\u00b0' }).click();
  await expect.poll(async () => (await clip()).shutter).toBe(180);
  await expect(page.getByTestId('made-0')).toHaveAttribute('data-state', 'made');
  await expect(page.getByTestId('made-0')).toHaveAttribute('data-ready', 'true', { timeout: 60_000 });
  await expect(page.getByTestId('look-right')).toHaveAttribute('data-state', 'ready');
  await view('Timelines').click();
  await expect(page.getByTestId('viewer-made')).toBeVisible({ timeout: 30_000 });
  // The weave calls it the same.
  await expect(page.getByTestId('weave-frame-0').locator('rect')).toHaveAttribute('data-state', 'made');
  await view('Retime').click();
  await undo();
  await expect(page.getByTestId('made-0')).toHaveAttribute('data-state', 'real');
});

test('a timeline placed in another one is looked at as its frames, made between them, but where it makes some itself', async () => {
  const { document } = await ask<{ document: { timelines: { id: string }[] } }>(`/projects/${project}`);
  const command = (asked: object) => ask(`/projects/${project}/commands`, { command: asked });
  const rate = { num: 60, den: 1 };
  const timeline = { id: 'wide', name: 'Wide', rate, width: 320, height: 180, startFrame: 0, dropFrame: false };
  await command({ type: 'addTimeline', timeline });
  const clip = { id: 'n', sourceId: document.timelines[0]?.id, laneId: 'p1', link: null, start: 0, length: 470, inPicture: 0 };
  const plain = { ...clip, headTrim: 0, fit: 'motion', speed: { num: 1, den: 1 }, cut: null, kept: null };
  await command({ type: 'placeClips', timelineId: 'wide', clips: [plain] });
  // Frame 200 of the placed one at 29.97 lies in its second clip, whose pictures are its source's own.
  await page.goto(`${server.url}/p/${project}/retime/wide/n/401`);
  await expect(page.getByTestId('made-401')).toHaveAttribute('data-ready', 'true');
  await expect(page.getByTestId('look-right')).toHaveAttribute('data-state', 'ready');
  // Frame 11 is made by motion itself.
  await page.goto(`${server.url}/p/${project}/retime/wide/n/23`);
  await expect(page.getByTestId('look-right')).toHaveText('seen when it is rendered');
  await command({ type: 'removeTimeline', timelineId: 'wide' });
  await page.goto(`${server.url}/p/${project}/retime`);
});

test('it is turned round and stopped; each is one step', async () => {
  await tools().getByRole('button', { name: 'Reverse' }).click();
  await expect(facts()).toContainText('-');
  await expect.poll(async () => (await clip()).curve?.at(-1)?.picture).toBe(0);
  expect((await clip()).length).toBe(138);
  await undo();
  await page.keyboard.press('Home');
  await tools().getByRole('button', { name: 'Freeze here' }).click();
  await page.getByLabel('Frames to hold').fill('12');
  await page.getByRole('button', { name: 'Freeze it' }).click();
  await expect.poll(async () => (await clip()).length).toBe(150);
  await expect(page.getByTestId('made-5')).toHaveAttribute('data-state', 'held');
  await undo();
});

test('how quickly the pan crosses the frame is measured, and said where it is too quick', async () => {
  await page.getByRole('button', { name: 'Measure it' }).click();
  // 4.1 s at its own speed; slowed to a quarter in the middle it is calm there.
  await expect(facts()).toContainText(/Pan crosses in4\.\d s/, { timeout: 60_000 });
  await expect(page.getByTestId('quick-pan')).toHaveCount(2);
});

test('every second picture is hidden and made again, to say what the material allows', async () => {
  await page.getByRole('button', { name: 'Hide and rebuild' }).click();
  await expect(facts()).toContainText(/\d\d\.\d dB/, { timeout: 60_000 });
  await expect(facts()).toContainText(/SSIM 0\.\d{3}, least \d\d\.\d at \d+/);
});

test('what is rendered is counted before, and the receipt agrees', async () => {
  test.setTimeout(240_000);
  await view('Render').click();
  await expect(page.getByTestId('price')).toContainText(/238 frames: \d+ real, \d+ held, 1 blended, \d\d made by motion/);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toHaveText('As asked', { timeout: 180_000 });
  await expect(page.getByTestId('line-frames')).toContainText('238');
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
