import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server, Wire } from './thaw.js';

/** What a person has done stays: while the server is away, over a reload, in the bin, in a backup, in a file. */
const server = new Server();
const complaints: string[] = [];
let page: Page;

test.describe.configure({ mode: 'serial' });
test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  clips();
  await server.start();
  page = await browser.newPage();
  page.on('pageerror', (error) => complaints.push(error.message));
});
test.afterAll(() => server.remove());

const list = () => page.getByRole('region', { name: 'Projects' });
const row = (name: string) => list().getByTestId('project-row').filter({ hasText: name });
const unsaved = () => page.getByTestId('unsaved');
const sources = () => page.getByTestId('source-row');
const menu = async (name: string, item: string): Promise<void> => {
  await page.getByLabel(`More for ${name}`, { exact: true }).click();
  await page
    .getByRole('menu', { name: `More for ${name}`, exact: true })
    .getByRole('menuitem', { name: item })
    .click();
};

test('while the server is away, what is done is shown, said to be unsaved, and stored when it is back', async () => {
  await page.goto(server.url);
  await page.getByLabel('Name of the new project').fill('Kept');
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByLabel('Files to add').setInputFiles(clips('jetty-pan', 'floe-drift'));
  await expect(sources()).toHaveCount(2, { timeout: 60_000 });
  await server.end('SIGKILL');
  await sources().filter({ hasText: 'jetty-pan' }).click();
  const claim = page.getByLabel('The camera claims');
  await claim.fill('240');
  await claim.press('Enter');
  await expect(unsaved()).toContainText('1 change');
  await expect(unsaved()).toContainText('The server does not answer');
  await claim.fill('120');
  await claim.press('Enter');
  await expect(unsaved()).toContainText('2 changes');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(unsaved()).toContainText('1 change');
  await server.start();
  await expect(unsaved()).toBeHidden({ timeout: 30_000 });
  await page.reload();
  await sources().filter({ hasText: 'jetty-pan' }).click();
  await expect(page.getByLabel('The camera claims')).toHaveValue('240');
});

test('an upload pauses, and goes on where it was after the page was loaded anew', async () => {
  // As large as a film.
  const path = join(server.folder, 'long-take.wav');
  execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-f', 'lavfi', '-i', 'sine=d=400:r=48000', path]);
  // Each part waits for a moment, so that there is something to pause.
  await page.route('**/api/uploads/*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    // Of a page that was loaded anew meanwhile nobody waits for it.
    await route.continue().catch(() => undefined);
  });
  await page.getByLabel('Files to add').setInputFiles(path);
  await expect(page.getByText(/Adding long-take\.wav: [\d.]+ MB of/)).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByText('Paused long-take.wav')).toBeVisible();
  await page.reload();
  await expect(page.getByTestId('unfinished')).toContainText('long-take.wav');
  await page.unroute('**/api/uploads/*');
  await page.getByLabel('Files to add').setInputFiles(path);
  await expect(sources()).toHaveCount(3, { timeout: 60_000 });
  await expect(page.getByTestId('unfinished')).toBeHidden();
});

test('events that are cut during an upload are missed by nobody: what was done meanwhile is there when they are back', async ({
  browser,
}) => {
  const wire = new Wire(server);
  await wire.start();
  const ask = async (path: string, body?: object): Promise<{ id: string }> => {
    const init = body && { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } };
    return (await (await fetch(`${server.url}/api${path}`, init)).json()) as { id: string };
  };
  const { id } = await ask('/projects', { name: 'On the wire' });
  const other = await (await browser.newContext()).newPage();
  try {
    await other.goto(`${wire.url}/p/${id}/sources`);
    await expect(other.getByText('Drop your files here')).toBeVisible();
    const path = join(server.folder, 'wire.wav');
    execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-f', 'lavfi', '-i', 'sine=d=200:r=48000', path]);
    await other.route('**/api/uploads/*', async (route) => {
      await new Promise((resolve) => setTimeout(resolve, 700));
      await route.continue();
    });
    await other.getByLabel('Files to add').setInputFiles(path);
    await expect(other.getByText(/Adding wire\.wav: [\d.]+ MB of/)).toBeVisible();
    expect(wire.cut()).toBe(1);
    // Somebody else makes a timeline that this page is not told of.
    const timeline = { id: 't', name: 'Made meanwhile', rate: { num: 24, den: 1 }, width: 640, height: 360 };
    await ask(`/projects/${id}/commands`, {
      command: { type: 'addTimeline', timeline: { ...timeline, startFrame: 0, dropFrame: false } },
    });
    // The upload goes on without them, and its source is shown.
    await expect(other.getByTestId('source-row').filter({ hasText: 'wire' })).toBeVisible({ timeout: 60_000 });
    wire.mend();
    await other.getByRole('link', { name: 'Timelines' }).click();
    await expect(
      other
        .getByRole('tab', { name: /Made meanwhile/ })
        .or(other.getByText('Made meanwhile'))
        .first(),
    ).toBeVisible();
    // And events come again.
    await ask(`/projects/${id}/commands`, { command: { type: 'renameTimeline', timelineId: 't', name: 'Told again' } });
    await expect(other.getByText('Told again').first()).toBeVisible();
  } finally {
    await other.close();
    wire.end();
  }
});

test('a project is renamed, copied, put into the bin, taken out, and gone when the bin is emptied', async () => {
  await page.getByTitle('All projects').first().click();
  await menu('Kept', 'Rename');
  await page.getByLabel('Name of Kept').fill('Kept well');
  await page.getByLabel('Name of Kept').press('Enter');
  await expect(row('Kept well')).toBeVisible();
  await menu('Kept well', 'Copy');
  await expect(row('Kept well, copy')).toContainText('3 sources');
  await menu('Kept well, copy', 'Put into the bin');
  await expect(row('Kept well, copy')).toBeHidden();
  const bin = page.getByRole('region', { name: 'Bin' });
  await bin.getByRole('button', { name: 'Restore' }).click();
  await expect(row('Kept well, copy')).toBeVisible();
  await menu('Kept well, copy', 'Put into the bin');
  await bin.getByRole('button', { name: 'Empty the bin' }).click();
  await expect(bin).toBeHidden();
  await expect(row('Kept well')).toHaveCount(1);
});

test('a project is saved as a file and opened again', async () => {
  await menu('Kept well', 'Save as a file');
  const sheet = page.getByRole('dialog');
  await expect(sheet.getByTestId('losses')).toContainText('The files of 3 sources stay here');
  await sheet.getByLabel('With the files of its sources').check();
  await expect(sheet.getByTestId('losses')).toBeHidden();
  const [download] = await Promise.all([page.waitForEvent('download'), sheet.getByRole('link', { name: 'Save' }).click()]);
  expect(download.suggestedFilename()).toBe('Kept well.thawline.zip');
  const path = join(server.folder, 'kept.thawline.zip');
  await download.saveAs(path);
  await page.getByLabel('Project file to open').setInputFiles(path);
  await expect(list().getByRole('status')).toContainText('All of it came along.');
  await expect(row('Kept well')).toHaveCount(2);
});

test('a backup brings a project back beside the present one, and the page says what takes the room', async () => {
  await page.getByRole('link', { name: 'Backups, and what takes the room' }).click();
  const backups = page.getByRole('region', { name: 'Backups' });
  await backups.getByRole('button', { name: 'Make a backup now' }).click();
  await backups.getByRole('button', { name: /made by hand/ }).click();
  await backups.getByRole('button', { name: 'Bring Kept well back' }).first().click();
  await expect(backups.getByRole('status')).toContainText(/Kept well \(backup of .*\) is back/);
  const room = page.getByRole('region', { name: 'Disk space' });
  await expect(room.getByRole('row', { name: /Copies of files/ })).toContainText('MB');
  await room.getByRole('button', { name: 'Free: Small pictures and waveforms' }).click();
  await expect(room.getByRole('button', { name: 'Free: Small pictures and waveforms' })).toBeDisabled();
  await page.getByRole('link', { name: 'All projects' }).last().click();
  await row('Kept well (backup').getByRole('link').click();
  await page.getByRole('button', { name: 'Make them', exact: true }).click();
  await expect(page.getByText('no small pictures')).toBeHidden();
  expect(complaints).toEqual([]);
});
