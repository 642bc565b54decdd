import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server } from './thaw.js';

const server = new Server();
const requests: string[] = [];
const complaints: string[] = [];
let page: Page;

test.describe.configure({ mode: 'serial' });

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  clips();
  await server.start();
  page = await browser.newPage();
  page.on('request', (request) => requests.push(request.url()));
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    // A server that is being restarted cannot be reached: that is this story's own doing.
    if (
      message.type() === 'error' &&
      !/ERR_CONNECTION_REFUSED|ERR_INCOMPLETE_CHUNKED|ERR_EMPTY_RESPONSE|ERR_CONNECTION_RESET/.test(message.text())
    )
      complaints.push(message.text());
  });
});
test.afterAll(() => server.remove());

const clip = (name: string, kind = 'picture') => page.getByTestId(`clip-${name}-${kind}`);
const frame = async (): Promise<number> => Number(await page.getByTestId('viewer').getAttribute('data-frame'));
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: new RegExp(name) });

test('a project is made, and says what to do first', async () => {
  await page.goto(server.url);
  await page.getByLabel('Name of the new project').fill('Thaw');
  await page.getByRole('button', { name: 'New project' }).click();
  await expect(page.getByText('Drop your files here')).toBeVisible();
});

test('files are added and read; what is none is refused by name', async () => {
  const bad = join(server.folder, 'notes.mov');
  writeFileSync(bad, 'no film');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose files' }).click();
  await (await chooser).setFiles([...clips('jetty-pan', 'warden-interview', 'calving-hero'), bad]);
  await expect(page.getByText(/notes\.mov is not a film file/)).toBeVisible({ timeout: 60_000 });
  const rows = page.getByRole('grid', { name: 'Sources' }).getByRole('row');
  await expect(rows).toHaveCount(4);
  await rows.filter({ hasText: 'jetty-pan' }).click();
  await expect(page.getByTestId('ledger-Stored')).toContainText('29.97');
  await expect(page.getByTestId('ledger-Measured')).toContainText('240 timestamps, 0.0 ppm left');
  await expect(page).toHaveURL(/\/sources\/\w+/);
});

test('a timeline is made at a rate of choice; the rate chain shows it', async () => {
  await view('Timelines').click();
  await page.getByRole('button', { name: 'New timeline' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  await dialog.getByLabel('Rate').fill('fast');
  await expect(dialog.getByText('Not a rate')).toBeVisible();
  await dialog.getByRole('button', { name: '25', exact: true }).click();
  await dialog.getByLabel('Width').fill('320');
  await dialog.getByLabel('Height').fill('180');
  await dialog.getByRole('button', { name: 'Make it at 25' }).click();
  await expect(page.getByTestId('rate-chain')).toContainText('25');
});

test('sources are placed with their sound, and the chain kinks where they do not match', async () => {
  await page.getByTitle('Place warden-interview at the end').click();
  await expect(clip('warden-interview')).toBeVisible();
  await expect(clip('warden-interview', 'sound')).toBeVisible();
  await expect(page.locator('[data-kinked]')).toHaveCount(0);
  const chip = await page.getByTitle('Place jetty-pan at the end').boundingBox();
  const lane = await page.getByTestId('lane-p2').boundingBox();
  if (!chip || !lane) throw new Error('not to be seen');
  await page.mouse.move(chip.x + 20, chip.y + 8);
  await page.mouse.down();
  await page.mouse.move(chip.x + 60, lane.y + 10, { steps: 6 });
  await page.mouse.move(lane.x + 400, lane.y + 14, { steps: 8 });
  await page.mouse.up();
  await expect(page.getByTestId('lane-p2').getByTestId('clip-jetty-pan-picture')).toBeVisible();
  await page.locator('[data-kinked]').click();
  await expect(page.getByText('1 clip does not run at 25')).toBeVisible();
  await page.keyboard.press('Escape');
});

test('a clip is moved and trimmed by number, by keys and by mouse, in whole frames', async () => {
  await clip('jetty-pan').click();
  const panel = page.getByTestId('clip-panel');
  await panel.getByLabel('Begins').fill('00:00:04:00');
  await panel.getByLabel('Begins').press('Enter');
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 200 frames/);
  await clip('jetty-pan').focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 101, 200 frames/);
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 200 frames/);
  const box = await clip('jetty-pan').boundingBox();
  if (!box) throw new Error('not to be seen');
  const scale = box.width / 200;
  await page.mouse.move(box.x + box.width - 4, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 4 - 50 * scale, box.y + 12, { steps: 8 });
  await page.mouse.up();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 150 frames/);
  await page.mouse.move(box.x + 4, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + 4 + 20 * scale, box.y + 12, { steps: 8 });
  await page.mouse.up();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 120, 130 frames/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 150 frames/);
});

test('the weave, the steps and the hitches are those of the step map', async () => {
  // 29.97 in 25: frame n of the clip shows floor(n * 30000 / 25025).
  const shown = (n: number): number => Math.floor((n * 30000) / (1001 * 25));
  const hitches = Array.from({ length: 149 }, (_, i) => i + 1).filter((n) => shown(n) - shown(n - 1) !== 1);
  await page.getByTestId('ruler').click({ position: { x: 90, y: 8 } });
  await page.keyboard.press('f');
  await expect.poll(frame).toBe(100 + (hitches[0] ?? 0));
  await expect(page.getByTestId('hitches')).toContainText(`${hitches.length} hitches`);
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-picture', String(shown(hitches[0] ?? 0)));
  await expect(page.getByTestId('weave').locator('[data-skipped]').first()).toBeVisible();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
  await expect.poll(frame).toBe(103 + (hitches[0] ?? 0));
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-picture', String(shown(3 + (hitches[0] ?? 0))));
});

test('the viewer shows exactly the picture of the frame', async () => {
  const source = page.getByTestId('viewer').locator('img').first();
  const picture = Number(await page.getByTestId('viewer').getAttribute('data-picture'));
  await expect(source).toHaveAttribute('src', new RegExp(`/pictures/${picture}$`));
  const sizes = await source.evaluate((img: HTMLImageElement) => img.decode().then(() => [img.naturalWidth, img.naturalHeight]));
  expect(sizes).toEqual([320, 180]);
});

test('another fit shows its price before, and is one step to undo', async () => {
  await expect(page.getByTestId('fit-pictures')).toContainText('83.42 %');
  await expect(page.getByTestId('fit-pictures')).toContainText('-3.14 st');
  await page.getByTestId('fit-blend').click();
  await expect(page.getByTestId('fit-blend')).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByTestId('hitches')).toContainText('no hitches');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('fit-nearest')).toHaveAttribute('aria-selected', 'true');
});

test('a check finds each picture held three times', async () => {
  await view('Check').click();
  await page.getByRole('button', { name: /calving-hero/ }).click();
  await page.getByRole('button', { name: 'Check calving-hero' }).click();
  await expect(page.getByTestId('verdict')).toContainText('8.333', { timeout: 60_000 });
  await expect(page.getByTestId('verdict')).toContainText('100 of 300');
  await expect(page.getByTestId('trace')).toBeVisible();
  await expect(page.getByTestId('strip-0')).toHaveAttribute('data-state', 'new');
  await expect(page.getByTestId('strip-1')).toHaveAttribute('data-state', 'held');
  await expect(page.getByTestId('strip-3')).toHaveAttribute('data-state', 'new');
  const brightness = (k: number): Promise<number> =>
    page
      .getByTestId(`strip-${k}`)
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => {
        const data = canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height).data ?? [];
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += data[i] ?? 0;
        return sum;
      });
  await expect.poll(async () => (await brightness(3)) / Math.max(1, await brightness(2))).toBeGreaterThan(4);
  await page.keyboard.press('f');
  await expect(page).toHaveURL(/\/check\/\w+\/1$/);
  await view('Sources').click();
  await expect(page.getByRole('row').filter({ hasText: 'calving-hero' })).toContainText('each picture held 3');
});

test('the timeline is rendered, stopped once, and the receipt agrees with what was asked', async () => {
  test.setTimeout(240_000);
  await view('Render').click();
  await expect(page.getByTestId('price')).toContainText('400 frames');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await page
    .getByRole('button', { name: /^Stop Thaw|^Stop Timeline/ })
    .first()
    .click();
  await expect(page.getByText('stopped, nothing kept')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toHaveText('As asked', { timeout: 180_000 });
  await expect(page.getByTestId('line-frames')).toContainText('400');
  await expect(page.getByTestId('line-rate')).toContainText('25.000 (0 ppm)');
  await expect(page.locator('[data-testid^="line-"][data-same="false"]')).toHaveCount(0);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save the file' }).click();
  expect((await download).suggestedFilename()).toMatch(/^timeline-1-\d+\.mp4$/);
});

test('two tabs stay in step', async ({ browser }) => {
  const other = await browser.newPage();
  await other.goto(page.url().replace('/render', '/timelines'));
  await expect(other.getByTestId('clip-jetty-pan-picture')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(other.getByTestId('clip-jetty-pan-picture')).toHaveAccessibleName(/frame 100, 200 frames/);
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(other.getByTestId('clip-jetty-pan-picture')).toHaveAccessibleName(/frame 100, 150 frames/);
  await other.close();
});

test('a restart and a reload keep the place, the edit, the history and the receipt', async () => {
  await view('Timelines').click();
  await clip('jetty-pan').click();
  await page.keyboard.press('End');
  await expect.poll(frame).toBe(399);
  await expect(page).toHaveURL(/f=399/);
  await server.end('SIGKILL');
  await server.start();
  await page.reload();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 150 frames/);
  await expect(clip('jetty-pan')).toHaveAttribute('data-chosen', 'true');
  expect(await frame()).toBe(399);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 100, 200 frames/);
  await view('Render').click();
  await expect(page.getByTestId('stamp')).toHaveText('As asked');
});

test('the shortcuts are shown under ?', async () => {
  await page.locator('main').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog').getByText('Next hitch, hold or jump')).toBeVisible();
  await page.keyboard.press('Escape');
});

test('no request left the machine', () => {
  const outside = requests.filter((r) => !r.startsWith(server.url) && !/^(data|blob):/.test(r));
  expect(requests.length).toBeGreaterThan(50);
  expect(outside).toEqual([]);
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
