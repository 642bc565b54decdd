import { cpSync, mkdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, rig, Server } from './thaw.js';

/** Sources: what there is, what is true of it, and reading it at other rates. */
const server = new Server();
const footage = join(server.folder, 'footage');
const complaints: string[] = [];
let page: Page;

test.describe.configure({ mode: 'serial' });

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  clips();
  mkdirSync(join(footage, 'day 1'), { recursive: true });
  cpSync(rig('icicle-drip'), join(footage, 'day 1', 'drips'), { recursive: true });
  cpSync(rig('floe-drift.mp4'), join(footage, 'day 1', 'floes.mp4'));
  for (let i = 0; i < 30; i++) writeFileSync(join(footage, `note-${i}.txt`), 'x');
  symlinkSync('/etc/hostname', join(footage, 'leak.mp4'));
  await server.start({ THAWLINE_MEDIA: footage });
  page = await browser.newPage();
  page.on('pageerror', (error) => complaints.push(error.message));
});
test.afterAll(() => server.remove());

const grid = () => page.getByRole('grid', { name: 'Sources' });
const rows = () => page.getByTestId('source-row');
const row = (name: string) => rows().filter({ hasText: name });
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: new RegExp(name) });
const dialog = () => page.getByRole('dialog');
const clip = (name: string) => page.getByTestId(`clip-${name}-picture`);
const chosen = () => grid().getByRole('checkbox', { checked: true });

test('films, a still and numbered pictures are added; the pictures are asked for their rate', async () => {
  await page.goto(server.url);
  await page.getByLabel('Name of the new project').fill('Sources');
  await page.getByRole('button', { name: 'New project' }).click();
  await page
    .getByLabel('Files to add')
    .setInputFiles([
      ...clips('jetty-pan', 'warden-interview', 'calving-hero', 'phone-thaw', 'skipper-interview'),
      rig('ridge-still', 'ridge-still.png'),
    ]);
  await expect(rows()).toHaveCount(6, { timeout: 60_000 });
  await expect(row('ridge-still')).toContainText('still');
  await page.getByLabel('Files to add').setInputFiles([0, 1, 2, 3].map((n) => rig('icicle-drip', `icicle-drip-000${n}.png`)));
  await expect(dialog()).toContainText('4 pictures');
  await dialog().getByLabel('Rate of the numbered pictures').fill('24000/1001');
  await dialog().getByRole('button', { name: 'Add 1 source' }).click();
  await expect(row('icicle-drip')).toContainText('23.976');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows()).toHaveCount(6);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Drop your files here')).toBeVisible();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(rows()).toHaveCount(6);
});

test('the same file again is recognised', async () => {
  await page.getByLabel('Files to add').setInputFiles(clips('jetty-pan'));
  await expect(page.getByTestId('refused')).toContainText('jetty-pan.mp4 is already here');
  await expect(rows()).toHaveCount(6);
  await page.getByRole('button', { name: 'Dismiss' }).click();
});

test('the bar of rates and what stands out choose and filter; heads sort; rates group', async () => {
  await page.getByRole('region', { name: 'Rates you have' }).getByRole('button', { name: /^25/ }).click();
  await expect(rows()).toHaveCount(2);
  await expect(page.getByText('2 chosen')).toBeVisible();
  await page.getByRole('button', { name: 'Show all' }).click();
  await page.getByLabel('What stands out').selectOption({ label: 'variable timing (1)' });
  await expect(rows()).toHaveCount(1);
  await expect(rows()).toContainText('phone-thaw');
  await page.getByRole('button', { name: 'Show all' }).click();
  await grid().getByRole('button', { name: 'Runs' }).click();
  await expect(rows().first()).toContainText('jetty-pan');
  await grid().getByRole('button', { name: 'Runs' }).click();
  await expect(rows().first()).toContainText('warden-interview');
  await grid().getByRole('button', { name: 'Runs' }).click();
  await page.getByLabel('Sort and display').click();
  await page.getByLabel('grouped by rate').click();
  await page.keyboard.press('Escape');
  await expect(grid().getByRole('button', { name: 'Choose these' })).toHaveCount(5);
  await page.getByLabel('Sort and display').click();
  await page.getByLabel('grouped by rate').click();
  await page.keyboard.press('Escape');
});

test('several are chosen with shift, ctrl and keys', async () => {
  await row('jetty-pan').click();
  await row('calving-hero').click({ modifiers: ['Shift'] });
  await expect(chosen()).toHaveCount(3);
  await row('warden-interview').click({ modifiers: ['Control'] });
  await expect(chosen()).toHaveCount(2);
  await grid().focus();
  await page.keyboard.press('Escape');
  await expect(chosen()).toHaveCount(0);
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(chosen()).toHaveCount(3);
  await page.keyboard.press('Control+a');
  await expect(chosen()).toHaveCount(6);
  await page.keyboard.press('Escape');
});

test('moving over a thumbnail goes through the clip', async () => {
  const thumb = page.getByTestId('thumb-jetty-pan');
  await expect(thumb).toBeVisible({ timeout: 60_000 });
  const box = await thumb.boundingBox();
  if (!box) throw new Error('not to be seen');
  await page.mouse.move(box.x + 3, box.y + 10);
  await expect(thumb).toHaveAttribute('data-tile', '0');
  await page.mouse.move(box.x + box.width - 2, box.y + 10);
  await expect(thumb).toHaveAttribute('data-tile', '15');
});

test('a claim is typed, checked and judged; the ledger is saved', async () => {
  await row('calving-hero').click();
  const claim = page.getByLabel('The camera claims');
  await claim.fill('fast');
  await expect(page.getByText('Not a rate. Try 600')).toBeVisible();
  await claim.fill('600');
  await claim.press('Enter');
  await expect(page.getByTestId('ledger-Claimed')).toContainText('600');
  await page.getByRole('button', { name: 'Check it' }).click();
  await expect(page.getByTestId('claim-verdict')).toContainText('fits 200', { timeout: 60_000 });
  await expect(row('calving-hero')).toContainText('fits 200, not 600');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save as JSON' }).click();
  const saved = JSON.parse(readFileSync(await (await download).path(), 'utf8')) as { claim: { fits: number } };
  expect(saved.claim.fits).toBeCloseTo(200, 6);
});

test('Read at refuses what is no rate, and shows before what will be', async () => {
  await view('Timelines').click();
  await page.getByRole('button', { name: 'New timeline' }).click();
  await dialog().getByRole('button', { name: '25', exact: true }).click();
  await dialog().getByRole('button', { name: 'Make it at 25' }).click();
  for (const name of ['jetty-pan', 'warden-interview', 'phone-thaw']) await page.getByTitle(`Place ${name} at the end`).click();
  await expect(clip('warden-interview')).toHaveAccessibleName(/frame 200, 400 frames/);
  await view('Sources').click();
  await row('jetty-pan').click();
  await page.getByRole('button', { name: 'Read at…' }).first().click();
  const field = dialog().getByLabel('Read at', { exact: true });
  for (const [typed, said] of [
    ['0', 'A rate of 0 shows nothing'],
    ['-25', 'above 0'],
    ['NaN', 'Not a rate'],
    ['1000001/1', 'Rates go up to'],
  ] as const) {
    await field.fill(typed);
    await expect(dialog()).toContainText(said);
    await expect(dialog().getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  }
  for (const [typed, said] of [
    ['24fps', 'exactly 24 pictures'],
    ['23,976', 'exactly 24000/1001'],
    ['24000/1001', 'exactly 24000/1001'],
    ['25', 'exactly 25 '],
  ] as const) {
    await field.fill(typed);
    await expect(dialog()).toContainText(said);
  }
  await expect(page.getByTestId('read-preview')).toContainText('1 of 1 source changes');
  await expect(page.getByTestId('change-jetty-pan')).toContainText('83.42 %');
  await expect(page.getByTestId('change-jetty-pan')).toContainText('3.14 st');
  await expect(page.getByTestId('use-jetty-pan')).toContainText('200 → 240');
  await expect(page.getByTestId('use-jetty-pan')).toContainText('40 frames longer');
  await dialog().getByLabel('jetty-pan on Timeline 1').selectOption('length');
  await expect(page.getByTestId('use-jetty-pan')).toContainText('shows fewer pictures');
  await dialog().getByLabel('jetty-pan on Timeline 1').selectOption('time');
  await expect(page.getByTestId('use-jetty-pan')).toContainText('119.88 %');
  await dialog().getByLabel('jetty-pan on Timeline 1').selectOption('move');
  await dialog().getByRole('button', { name: 'Read jetty-pan at 25' }).click();
  await expect(page.getByTestId('ledger-Read at')).toContainText('83.42 % of 29.97');
});

test('clips follow in place, and one undo takes all of it back', async () => {
  await view('Timelines').click();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 0, 240 frames/);
  await expect(clip('warden-interview')).toHaveAccessibleName(/frame 240, 400 frames/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(clip('jetty-pan')).toHaveAccessibleName(/frame 0, 200 frames/);
  await expect(clip('warden-interview')).toHaveAccessibleName(/frame 200, 400 frames/);
});

test('a whole group at once says how many change and how many match already', async () => {
  await view('Sources').click();
  await grid().focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Read at…' }).first().click();
  await dialog().getByLabel('Read at', { exact: true }).fill('25');
  await expect(page.getByTestId('read-preview')).toContainText(
    '3 of 6 sources change, 2 are read so already, 1 left alone (a still has no rate)',
  );
  await dialog().getByRole('button', { name: 'Read 3 sources at 25' }).click();
  await expect(page.getByRole('region', { name: 'Rates you have' }).getByRole('button', { name: /25 ← 29\.97/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.keyboard.press('Escape');
});

test('sound that runs longer offers its rate; keeping its pitch is remembered, and no render refuses it', async () => {
  await row('skipper-interview').click();
  await expect(page.getByText('The sound runs 2.00 s longer')).toBeVisible();
  await page.getByRole('button', { name: 'Read at 25…' }).click();
  await expect(page.getByTestId('change-skipper-interview')).toContainText('own rate, 0 st');
  await dialog().getByText('keeps its pitch').click();
  await expect(page.getByTestId('change-skipper-interview')).toContainText('pitch kept');
  await dialog()
    .getByRole('button', { name: /^Read skipper-interview/ })
    .click();
  await expect(page.getByText('Read at 25 they fit.')).toBeVisible();
  await view('Timelines').click();
  await page.getByTitle('Place skipper-interview at the end').click();
  // Placing goes to the new clip: only then is the next place gone to.
  await expect(page).toHaveURL(/\/timelines\/\w+\/\w+/);
  await view('Render').click();
  // The view comes a moment later; until then the timeline's own button of that name is there.
  await expect(page.getByTestId('price')).toBeVisible();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  // What it sounds like is measured elsewhere; here it is begun, and ended: the whole of it is large.
  await expect(page.getByText(/writing frames/)).toBeVisible({ timeout: 60_000 });
  const stop = page.getByRole('button', { name: /^Stop Timeline 1/ });
  await stop.click();
  await expect(stop).toHaveCount(0);
});

test('variable timing is made even after the weave has shown what is held and skipped', async () => {
  await view('Sources').click();
  await row('phone-thaw').click();
  await expect(page.getByTestId('timing-chart')).toBeVisible();
  await page.getByRole('button', { name: 'See every gap' }).click();
  await dialog().getByRole('button', { name: 'Closer' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Make the timing even…' }).click();
  await dialog().getByLabel('Read at', { exact: true }).fill('30');
  const weave = page.getByTestId('even-weave');
  await expect(weave).toContainText(/\d+ of 293 frames hold the picture before/);
  await weave.getByRole('button', { name: 'Next hold or skip' }).click();
  await expect(weave.locator('[data-kind="held"], [data-kind="hitch"]').first()).toBeVisible();
  await dialog().getByRole('button', { name: 'Read phone-thaw at 30' }).click();
  await expect(page.getByTestId('ledger-Read at')).toContainText('made even');
  await expect(row('phone-thaw')).toContainText('30');
});

test('a folder of the media folders is looked into, used in place, and nothing outside can be had', async () => {
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: /Use in place/ }).click();
  await dialog().getByLabel('Choose the folder footage').check();
  await dialog()
    .getByRole('button', { name: /Look into/ })
    .click();
  await expect(dialog()).toContainText('1 film, 1 run of numbered pictures');
  await expect(page.getByTestId('passed')).toContainText('31 files passed over');
  await expect(page.getByTestId('passed')).toContainText('a link that leads out of the media folders 1');
  await dialog().getByLabel('Rate of the numbered pictures').fill('24');
  await dialog().getByRole('button', { name: 'Add 2 sources' }).click();
  await expect(row('floes')).toBeVisible({ timeout: 30_000 });
  await expect(row('icicle-drip')).toContainText('48 numbered');
});

test('a file that moved is noticed and found again', async () => {
  await expect(page.getByTestId('thumb-floes')).toBeVisible({ timeout: 60_000 });
  renameSync(join(footage, 'day 1', 'floes.mp4'), join(footage, 'moved.mp4'));
  await page.reload();
  await expect(row('floes')).toContainText('file missing');
  await row('floes').click();
  await expect(page.getByTestId('file-notice')).toContainText('floes.mp4 is no longer at');
  await page.getByRole('button', { name: 'Find the file' }).click();
  await expect(page.getByTestId('file-notice')).toHaveCount(0);
  await expect(row('floes')).not.toContainText('file missing');
});

test('sources in use show their uses before they go, and one undo brings all back', async () => {
  await row('jetty-pan').click();
  await row('jetty-pan').getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(dialog()).toContainText('1 clip on Timeline 1');
  await dialog().getByRole('button', { name: 'Remove 1 source and 1 clip' }).click();
  await expect(row('jetty-pan')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row('jetty-pan')).toHaveCount(1);
  await view('Timelines').click();
  await expect(clip('jetty-pan')).toBeVisible();
});

test('the history is walked by pressing its lines, and a second tab follows', async ({ browser }) => {
  const other = await browser.newPage();
  await other.goto(page.url().replace(/timelines.*/, 'sources'));
  await expect(other.getByTestId('source-row').filter({ hasText: 'floes' })).toBeVisible();
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'History' }).click();
  await page.getByRole('button', { name: /Noted a claim of 600/ }).click();
  await expect(other.getByTestId('source-row')).toHaveCount(6);
  await page.getByRole('button', { name: 'The beginning' }).click();
  await expect(other.getByText('Drop your files here')).toBeVisible();
  await page.getByRole('button', { name: /Added 2 sources/ }).click();
  await expect(other.getByTestId('source-row')).toHaveCount(8);
  await other.close();
});

test('the browser had nothing to complain of', () => {
  expect(complaints).toEqual([]);
});
