import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server, shell } from './thaw.js';

const server = new Server();
const complaints: string[] = [];
let page: Page;

test.describe.configure({ mode: 'serial' });

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const [pan, hero] = clips('jetty-pan', 'calving-hero');
  await server.start();
  // A converted copy: 29.97 in 25, by the shell.
  shell('make', pan ?? '', join(server.folder, 'pan-copy.mp4'), '--rate', '25', '--method', 'nearest');
  // Something that is another in every picture, in a corner of what shows each picture three times.
  const corner = "nullsrc=s=60x14:r=25,geq=lum='255*gt(random(1),0.5)':cb=128:cr=128";
  const numbered = ['-filter_complex', '[0:v][1:v]overlay=10:H-24:shortest=1', '-an', '-t', '4', '-c:v', 'libx264'];
  const made = spawnSync('ffmpeg', [
    ...['-nostdin', '-v', 'error', '-i', hero ?? '', '-f', 'lavfi', '-i', corner],
    ...[...numbered, join(server.folder, 'numbered.mp4')],
  ]);
  expect(made.status).toBe(0);
  page = await browser.newPage();
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(message.text());
  });
  await page.goto(server.url);
  await page.getByLabel('Name of the new project').fill('Checks');
  await page.getByRole('button', { name: 'New project' }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose files' }).click();
  await (await chooser).setFiles([
    ...clips('calving-hero', 'jetty-pan'),
    ...['pan-copy.mp4', 'numbered.mp4'].map((name) => join(server.folder, name)),
  ]);
  await expect(page.getByRole('grid', { name: 'Sources' }).getByRole('row')).toHaveCount(5, { timeout: 60_000 });
  await page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: /Check/ }).click();
});
test.afterAll(() => server.remove());

const verdict = () => page.getByTestId('verdict');

test('the verdict is read in one line; a claim is typed and answered with what fits', async () => {
  await page.getByRole('button', { name: 'Check calving-hero' }).click();
  await expect(verdict()).toContainText('100 of 300', { timeout: 60_000 });
  await expect(verdict()).toContainText('Every picture is stored 3 times');
  const claim = page.getByLabel('What the camera claims');
  await claim.fill('quite fast');
  await expect(page.getByText('Not a rate. Try 600, or 1/24 of 600.')).toBeVisible();
  await claim.fill('1/24 of 600');
  await claim.press('Enter');
  await expect(page.getByTestId('claim-answer')).toContainText('fits a claim of 200');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Added/);
  await expect(claim).toHaveValue('');
});

test('findings are walked by keys; two pictures are flipped and stand side by side', async () => {
  await page.getByTestId('strip-3').click();
  const at = (k: number) => expect(page.getByTestId(`strip-${k}`)).toHaveAttribute('aria-current', 'true');
  await at(3);
  await page.keyboard.press('f');
  await at(4);
  await page.keyboard.press('f');
  await at(5);
  await page.keyboard.press('Shift+f');
  await at(4);
  await expect(page.getByTestId('pair')).toHaveAttribute('data-shown', '4');
  await page.keyboard.press('x');
  await expect(page.getByTestId('pair')).toHaveAttribute('data-shown', '3');
  await page.getByText('side by side').click();
  await expect(page.getByTestId('pair')).toHaveAttribute('data-shown', '3,4');
  // A choice made with the mouse does not keep the keys.
  await page.keyboard.press('f');
  await at(5);
});

test('a finding is corrected by hand and left to the check again; a mark stays on its picture', async () => {
  const strip = page.getByTestId('strip-4');
  // A key pressed in the same breath as the click means what was clicked, however busy the machine is.
  await strip.evaluate((element) => {
    (element as HTMLElement).click();
    const press = (type: string) => document.dispatchEvent(new KeyboardEvent(type, { key: 'c', code: 'KeyC', bubbles: true }));
    setTimeout(() => press('keydown') && press('keyup'));
  });
  await expect(strip).toHaveAttribute('data-state', 'new');
  await expect(strip).toContainText('by hand');
  await expect(verdict()).toContainText('101 of 300');
  await page.getByRole('button', { name: 'Leave it to the check' }).click();
  await expect(strip).toHaveAttribute('data-state', 'held');
  const note = page.getByLabel('Mark on this picture');
  await note.fill('crack opens');
  await note.press('Enter');
  await expect(strip).toContainText('crack opens');
  await page.reload();
  await expect(strip).toContainText('crack opens');
  for (let step = 0; step < 3; step++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Added/);
});

test('the trace is zoomed by the wheel, moved by dragging, and shown whole again', async () => {
  const place = page.getByTestId('trace-place');
  await place.scrollIntoViewIfNeeded();
  const box = await place.boundingBox();
  if (!box) throw new Error('not to be seen');
  await page.mouse.move(box.x + box.width / 2, box.y + 60);
  await page.keyboard.down('Control');
  await page.mouse.wheel(0, -400);
  await page.keyboard.up('Control');
  await expect
    .poll(async () => Number(await place.getAttribute('data-to')) - Number(await place.getAttribute('data-from')))
    .toBeLessThan(150);
  const before = Number(await place.getAttribute('data-from'));
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 160, box.y + 60, { steps: 6 });
  await page.mouse.up();
  expect(Number(await place.getAttribute('data-from'))).toBeGreaterThan(before);
  await page.getByRole('button', { name: /^All 300/ }).click();
  await expect(place).toHaveAttribute('data-from', '0');
});

test('a part is checked by in and out, and a region of each picture', async () => {
  await page.getByLabel('First picture to check').fill('60');
  await page.getByLabel('Last picture to check').fill('119');
  await page.getByRole('button', { name: 'Region…' }).click();
  const region = await page.getByTestId('region').boundingBox();
  if (!region) throw new Error('not to be seen');
  await page.mouse.move(region.x + region.width * 0.1, region.y + region.height * 0.4);
  await page.mouse.down();
  await page.mouse.move(region.x + region.width * 0.9, region.y + region.height * 0.95, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /^Region 80/ })).toBeVisible();
  await page.getByRole('button', { name: 'Check this part' }).click();
  await expect(verdict()).toContainText('20 of 60', { timeout: 60_000 });
  await page.getByText('whole file').click();
  await expect(verdict()).toContainText('100 of 300');
});

test('new pictures only: what comes of it is shown, then done in one step, and undone', async () => {
  await page.getByRole('button', { name: /^Keep new pictures only/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByTestId('change-calving-hero')).toContainText('8.333');
  await expect(dialog.getByTestId('change-calving-hero')).toContainText('0:12.0 → 0:12.0');
  await dialog.getByRole('button', { name: 'Keep the new pictures of calving-hero only' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Keep the new pictures/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Added/);
});

test('held pictures are rebuilt with motion in one step, and undone', async () => {
  await page.getByRole('button', { name: 'Rebuild with motion' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute(
    'title',
    /Rebuilt the 200 held pictures of calving-hero/,
  );
  await expect(page.getByRole('button', { name: /^Rebuild/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /^Rebuild/ })).toBeVisible();
});

test('a report is saved: a page to print, and the findings as a table', async () => {
  await page.getByRole('button', { name: 'Save report' }).click();
  const opened = page.waitForEvent('popup');
  await page.getByRole('menuitem', { name: 'A page to print' }).click();
  const report = await opened;
  await expect(report.getByRole('heading', { name: 'calving-hero' })).toBeVisible();
  await expect(report.getByText('Every picture is stored 3 times')).toBeVisible();
  await report.close();
  await page.getByRole('button', { name: 'Save report' }).click();
  const saved = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Findings as CSV' }).click();
  const table = readFileSync(await (await saved).path(), 'utf8');
  expect(table.trim().split('\r\n')).toHaveLength(201);
});

test('a counter that runs over held pictures is found by itself, and looked beside', async () => {
  await page.getByTitle('numbered', { exact: true }).click();
  await page.getByRole('button', { name: 'Check numbered' }).click();
  await expect(verdict()).toContainText('Every picture is stored 3 times', { timeout: 60_000 });
  await expect(page.getByText('Something at the bottom left goes on changing')).toBeVisible();
  await page.getByRole('button', { name: 'Check the rest of the picture' }).click();
  await page.getByRole('button', { name: 'Check this part' }).click();
  await expect(page.getByText('0 to 99, a region')).toBeVisible({ timeout: 60_000 });
  await expect(verdict()).toContainText('Every picture is stored 3 times');
});

test('two are compared: the path as a weave, what was left out, both pictures beside each other', async () => {
  await page.getByRole('button', { name: 'Compare two…' }).click();
  const dialog = page.getByRole('dialog');
  const choose = async (label: string, name: string): Promise<void> => {
    await dialog.getByRole('combobox', { name: label }).click();
    await page.getByRole('option', { name, exact: true }).click();
  };
  await choose('Pictures of', 'jetty-pan');
  await choose('as they are shown by', 'pan-copy');
  await expect(dialog).toContainText('440 pictures are decoded');
  await dialog.getByRole('button', { name: 'Compare them' }).click();
  await page.getByRole('button', { name: /jetty-pan → pan-copy/ }).click({ timeout: 60_000 });
  const found = page.getByTestId('comparison');
  await expect(found).toContainText('39 pictures are left out');
  await expect(page.getByTestId('differences').getByRole('button').first()).toContainText('dropped');
  await page.keyboard.press('f');
  // 29.97 in 25: frame 5 is the first to step by two, floor(5 * 30000 / 25025) = 5, floor(6 * ...) = 7.
  await expect(page).toHaveURL(/\/compare\/\w+\/6$/);
  await expect(page.getByTestId('pair-6')).toHaveAttribute('data-a', '7');
  await page.reload();
  await expect(page.getByTestId('pair-6')).toHaveAttribute('aria-current', 'true');
});

test("a timeline's own frames are checked; marks for held pictures go into the edit in one step", async () => {
  await page
    .getByRole('navigation', { name: 'Views' })
    .getByRole('link', { name: /Timelines/ })
    .click();
  await page.getByRole('button', { name: 'New timeline' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Rate').fill('30');
  await dialog.getByRole('button', { name: 'Make it at 30' }).click();
  await page.getByTitle('Place calving-hero at the end').click();
  await page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: /Check/ }).click();
  // The timeline's own tab bears the same name, and may still be there.
  await expect(page.getByRole('heading', { name: 'Checked' })).toBeVisible();
  await page.getByTitle('Timeline 1', { exact: true }).click();
  const verdict = page.getByTestId('timeline-verdict');
  await expect(verdict).toContainText('8.333');
  await page.keyboard.press('f');
  await expect(page).toHaveURL(/timeline\/\w+\/\d+$/);
  await page.getByRole('button', { name: /calving-hero/ }).click();
  await page.getByRole('button', { name: /^Put \d+ marks in the edit/ }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /marks into the edit/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Placed/);
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
