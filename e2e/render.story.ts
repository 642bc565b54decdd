import { type ChildProcess, spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { expect, type Page, test } from '@playwright/test';
import { ffmpeg } from '@thawline/media';
import { holdPicture } from '@thawline/rig';
import { clips, Server } from './thaw.js';

/** Render: the price before, the queue, a fault that the receipt finds exactly, and a desk that takes what is right. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let desk: ChildProcess;
let project = '';

test.describe.configure({ mode: 'serial' });

const { ask } = server;
interface Told {
  readonly renderId: string;
  readonly file: string;
  readonly folder: string;
}
const receipts = (): Promise<Told[]> => ask(`/projects/${project}/receipts`);
const stamp = () => page.getByTestId('stamp');
const renderIt = () => page.getByRole('button', { name: 'Render', exact: true }).click();

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const [path = ''] = clips('floe-drift');
  desk = spawn(process.execPath, [fileURLToPath(new URL('../apps/desk/dist/main.js', import.meta.url))], {
    env: { ...process.env, DESK_PORT: '0', DESK_DATA: join(server.folder, 'desk') },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const address = await new Promise<string>((resolve) => {
    createInterface({ input: desk.stdout as NodeJS.ReadableStream }).on('line', (l) => resolve(/http:\S+/.exec(l)?.[0] ?? ''));
  });
  await server.start({ THAWLINE_DESK: address });
  project = (await ask<{ id: string }>('/projects', { name: 'Sent' })).id;
  const form = new FormData();
  form.append('file', new Blob([await readFile(path)]), 'floe-drift.mp4');
  await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  const size = { width: 320, height: 180 };
  const timeline = { id: 'cut', name: 'Delivery', rate: { num: 25, den: 1 }, ...size };
  await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline } });
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(message.text());
  });
  await page.goto(`${server.url}/p/${project}/timelines/cut`);
  await page.getByTitle('Place floe-drift at the end').click();
  await expect(page.getByTestId('clip-floe-drift-picture')).toBeVisible();
  await page
    .getByRole('navigation', { name: 'Views' })
    .getByRole('link', { name: /Render/ })
    .click();
});
test.afterAll(async () => {
  desk.kill();
  await server.remove();
});

test('the price is told before: frames by kind, time, size, sound, room', async () => {
  await expect(page.getByTestId('price')).toContainText('200 frames: 200 real');
  await expect(page.getByTestId('cost')).toContainText(/Comes to (about|between) .*[kM]B.* in (about|between) .*0:\d\d\.\d/, {
    timeout: 60_000,
  });
  await expect(page.getByTestId('cost')).toContainText(/dB from the composed ones/);
  await expect(page.getByTestId('cost')).toContainText(/are free/);
});

test('a form is chosen, its number is put into words, and it is kept under a name', async () => {
  const words = page.getByTestId('quality-words');
  await expect(words).toContainText('18 is as good as the original to the eye');
  await page.getByRole('textbox', { name: 'Quality' }).fill('34');
  await expect(words).toContainText('34 is coarse');
  await page.getByRole('combobox', { name: 'Form', exact: true }).click();
  await page.getByRole('option', { name: /Matroska/ }).click();
  await expect(page.getByTestId('form')).toContainText('every picture comes back exactly');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByLabel('Keep this form as').fill('To the archive');
  await page.getByRole('button', { name: 'Keep form' }).click();
  await expect(page.getByRole('combobox', { name: 'Kept forms' })).toHaveValue('To the archive');
  await page.getByRole('combobox', { name: 'Form', exact: true }).click();
  await page.getByRole('option', { name: /MP4/ }).click();
  // What was typed for it before is still there.
  await expect(words).toContainText('34 is coarse');
  await page.getByRole('textbox', { name: 'Quality' }).fill('18');
  await expect(words).toContainText('18 is as good');
});

test('another rate is drawn with its price, and the chain says that it is another', async () => {
  await page.getByRole('switch', { name: /another rate/ }).check({ force: true });
  await page.getByRole('button', { name: '50', exact: true }).click();
  await expect(page.getByTestId('price')).toContainText('400 frames: 200 real, 200 held');
  await expect(page.getByRole('group', { name: 'Weave of 25 into 50' })).toBeVisible();
  await expect(page.getByText(/Carrying the edit to 50 is usually better/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'The render has another rate than the timeline' })).toBeVisible();
  await page.getByRole('switch', { name: /another rate/ }).uncheck({ force: true });
  await expect(page.getByTestId('price')).toContainText('200 frames');
});

test('a render is paused, goes on, and its receipt is as asked', async () => {
  test.setTimeout(240_000);
  await page.getByLabel('Name', { exact: true }).fill('to the desk');
  await renderIt();
  const job = page.getByTestId('queue').getByTestId('job').first();
  await page.getByRole('button', { name: /^Pause Delivery/ }).click();
  await expect(job).toHaveAttribute('data-state', 'paused', { timeout: 30_000 });
  await page.getByRole('button', { name: /^Go on with Delivery/ }).click();
  await expect(stamp()).toHaveText('As asked', { timeout: 120_000 });
  await expect(page.getByTestId('receipt')).toContainText('to the desk.mp4');
  await expect(page.getByTestId('line-sync')).toHaveAttribute('data-same', 'true');
});

test('a fault planted in the file is noticed, measured, and found exactly, with both pictures', async () => {
  test.setTimeout(240_000);
  const [told] = await receipts();
  await holdPicture(ffmpeg, join(told?.folder ?? '', told?.file ?? ''), 61);
  await page.reload();
  await expect(stamp()).toHaveText('Another file now');
  await page.getByRole('button', { name: 'Measure it again' }).click();
  await expect(stamp()).toHaveText('1 thing differs', { timeout: 90_000 });
  const place = page.getByTestId('place');
  await expect(place).toHaveCount(1);
  await expect(place).toContainText('00:00:02:11 shows the picture of the frame before again.');
  await expect(place).toContainText('The edit asks for floe-drift 122; the file has floe-drift 120.');
  for (const name of [/as it was asked for/, /as the file has it/])
    await expect
      .poll(() => place.getByRole('img', { name }).evaluate((img: HTMLImageElement) => img.naturalWidth), { timeout: 30_000 })
      .toBeGreaterThan(0);
  await place.getByRole('button', { name: 'Go there' }).click();
  await expect(page).toHaveURL(/\/timelines\/cut/);
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-frame', '61');
  await page.goBack();
  await expect(page.getByTestId('place')).toBeVisible();
});

test('the desk refuses it with its reason; the part is rendered again, and the desk accepts', async () => {
  test.setTimeout(240_000);
  await expect(page.getByTestId('desk')).toContainText(
    'takes 25 or 50, mp4, mov or mkv, no held pictures, true peaks to -1 dBTP',
  );
  await page.getByRole('button', { name: 'Hand to the intake desk' }).click();
  const answer = page.getByTestId('delivery').first();
  await expect(answer).toHaveAttribute('data-accepted', 'false', { timeout: 60_000 });
  await expect(answer).toContainText('Held pictures: no held pictures wanted, 1 of them found.');
  await page.getByRole('button', { name: 'Render this part again' }).click();
  await expect(stamp()).toHaveText('As asked', { timeout: 120_000 });
  await expect(page.getByTestId('receipt')).toContainText('to the desk (2).mp4');
  await page.getByRole('button', { name: 'Hand to the intake desk' }).click();
  await expect(page.getByTestId('delivery').first()).toHaveAttribute('data-accepted', 'true', { timeout: 60_000 });
});

test('what was kept is shown, is used again, and is emptied', async () => {
  test.setTimeout(240_000);
  await page.getByLabel('Name', { exact: true }).fill('once more');
  await expect(page.getByTestId('cost')).toContainText('200 frames are there already', { timeout: 60_000 });
  await renderIt();
  await expect(page.getByTestId('receipt')).toContainText('once more.mp4', { timeout: 120_000 });
  await expect(page.getByTestId('receipt')).toContainText('200 frames had been written before');
  const kept = page.getByTestId('kept');
  await kept.locator('summary').click();
  await kept.getByRole('button', { name: 'Delete all parts' }).click();
  await expect(kept).toContainText('0 kB of 20.00 GB');
});

test('a receipt is printed and saved; a name that leads elsewhere is refused as it is typed', async () => {
  const href = await page.getByRole('link', { name: 'Print receipt' }).getAttribute('href');
  const text = await (await fetch(`${server.url}${href}`)).text();
  expect(text).toContain('<h2>As asked</h2>');
  expect(text).toContain('Fingerprint');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save receipt' }).click();
  expect((await download).suggestedFilename()).toBe('once more-receipt.json');
  await page.getByLabel('Name', { exact: true }).fill('../elsewhere');
  await expect(page.getByRole('button', { name: 'Render', exact: true })).toBeDisabled();
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
