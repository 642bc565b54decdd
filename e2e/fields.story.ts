import { readFile } from 'node:fs/promises';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server } from './thaw.js';

/** Fields: an old reel that is half film and half fields, flagged wrongly, is read right, cut and rendered. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let project = '';

test.describe.configure({ mode: 'serial' });

const { ask } = server;
const radio = (name: RegExp) => page.getByRole('radio', { name });
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: new RegExp(name) });

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  const [path = ''] = clips('old-reel');
  await server.start();
  project = (await ask<{ id: string }>('/projects', { name: 'Reel' })).id;
  const form = new FormData();
  form.append('file', new Blob([await readFile(path)]), 'old-reel.mp4');
  await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('pageerror', (error) => complaints.push(error.message));
  await page.goto(`${server.url}/p/${project}/sources`);
});
test.afterAll(() => server.remove());

test('its fields are measured: two kinds of material, in another order than the file says', async () => {
  await page.getByRole('button', { name: 'Fields\u2026' }).first().click();
  await expect(page.getByText('not measured yet')).toBeVisible();
  await page.getByRole('button', { name: 'Measure its fields' }).click();
  await expect(page.getByText('two kinds of material')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByTestId('fields-head')).toContainText('bottom firstwrong');
  await expect(page.getByTestId('fields-head')).toContainText('top first');
  await expect(page.getByTestId('fields-band').getByRole('button', { name: 'break at 62' })).toBeVisible();
});

test('the proof plays both ways round; a frame is seen taken apart', async () => {
  await page.getByRole('button', { name: 'Both ways round' }).click();
  const proof = page.getByRole('dialog', { name: 'Both ways round' });
  await expect(proof.getByText('top field first, as measured')).toBeVisible();
  const seen = proof.locator('img:not([hidden])').first();
  await expect.poll(() => seen.evaluate((image: HTMLImageElement) => image.naturalHeight), { timeout: 30_000 }).toBe(136);
  await page.keyboard.press('Escape');
  const pictures = page.getByTestId('field-pictures').locator('img');
  await expect(pictures).toHaveCount(4);
  for (let i = 0; i < 4; i++)
    await expect
      .poll(() => pictures.nth(i).evaluate((image: HTMLImageElement) => image.naturalHeight), { timeout: 30_000 })
      .toBe(136);
});

test('read so, each stretch its own way, it is other pictures of the same length; one undo takes that back', async () => {
  await expect(radio(/each stretch as measured/)).toBeChecked();
  await page.getByRole('button', { name: 'Read it so' }).click();
  await expect(page.getByRole('button', { name: 'It is read so' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Read it so' })).toBeEnabled();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('button', { name: 'It is read so' })).toBeVisible();
  await page.getByRole('button', { name: 'old-reel' }).click();
  await expect(page.getByTestId('ledger-Measured')).toContainText('each stretch its own way');
  await expect(page.getByTestId('ledger-Fields')).toContainText('59.94');
});

test('on a timeline of 25 it is cut and rendered from whole pictures, and the receipt finds what was asked', async () => {
  test.setTimeout(120_000);
  const timeline = { id: 'cut', name: 'Main cut', rate: { num: 25, den: 1 }, width: 240, height: 136 };
  await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline } });
  await page.goto(`${server.url}/p/${project}/timelines/cut`);
  await page.getByTitle('Place old-reel at the end').click();
  await expect(page.getByTestId('clip-old-reel-picture')).toBeVisible();
  // What lies around where film goes over into fields.
  type State = { document: { timelines: { clips: { id: string }[] }[] } };
  const { document } = await ask<State>(`/projects/${project}`);
  const id = document.timelines[0]?.clips[0]?.id;
  const change = (command: object) => ask(`/projects/${project}/commands`, { command: { timelineId: 'cut', ...command } });
  await change({ type: 'trimClip', clipId: id, start: 80, end: 120 });
  await change({ type: 'moveClips', clipIds: [id], byFrames: -80, byLanes: 0 });
  await view('Render').click();
  await expect(page.getByTestId('price')).toContainText('40 frames');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toContainText('As asked', { timeout: 90_000 });
});

test('the timeline goes over to fields: both are seen in their lines, and woven as half frames', async () => {
  await view('Timelines').click();
  await page.getByRole('button', { name: 'More for this timeline' }).click();
  await page.getByRole('menuitem', { name: /^Name, rate/ }).click();
  await page.getByRole('combobox', { name: 'Frames hold' }).click();
  await page.getByRole('option', { name: 'two fields, top first' }).click();
  await page.getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByTestId('rate-chain')).toContainText('25 in fields');
  await expect(page.getByTestId('fields-shown')).toHaveText('two fields, top first');
  await expect(page.getByTestId('viewer-second-field').locator('img')).toBeVisible();
  await expect(page.getByTestId('weave-frame-1')).toContainText('0.2');
  await page.keyboard.press('Space');
  await expect(page.getByTestId('player')).toHaveAttribute('data-field', /first|second/);
  await page.keyboard.press('Space');
});

test('rendered in fields, each at its own moment, the file is found to be so', async () => {
  test.setTimeout(120_000);
  await view('Render').click();
  await expect(page.getByRole('combobox', { name: 'Frames hold' })).toHaveValue('as the timeline');
  await expect(page.getByTestId('price')).toContainText('80 fields');
  await page.getByRole('combobox', { name: 'Low-pass, line to line' }).click();
  await page.getByRole('option', { name: /^light/ }).click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const told = async (): Promise<string[]> => {
    const receipts = await ask<{ lines: { what: string; measured: string; same: boolean }[] }[]>(`/projects/${project}/receipts`);
    const inFields = receipts.find((r) => r.lines.some((l) => l.what === 'order'));
    return inFields ? inFields.lines.filter((l) => l.what === 'fields' || !l.same).map((l) => `${l.what} ${l.measured}`) : [];
  };
  await expect.poll(told, { timeout: 90_000 }).toEqual(['fields top field first']);
  expect(complaints).toEqual([]);
});
