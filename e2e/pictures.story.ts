import { spawnSync } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { Server } from './thaw.js';

/** Pictures as they came: a keyed skiff over the ice, a dawn in HLG, on one timeline. */
const server = new Server();
const complaints: string[] = [];
let page: Page;
let project = '';

test.describe.configure({ mode: 'serial' });

const { ask } = server;
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: new RegExp(name) });

/** A clip of FFmpeg's own making. */
function clip(name: string, ...args: string[]): string {
  const path = join(server.folder, name);
  const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path], { encoding: 'utf8' });
  if (made.status !== 0) throw new Error(made.stderr);
  return path;
}

/** Red, green and blue of the viewer's pictures put together, at shares of its width and height. */
async function seenAt(x: number, y: number): Promise<number[]> {
  const images = page.getByTestId('viewer').locator('img');
  await expect
    .poll(() => images.evaluateAll((all) => all.length > 0 && all.every((i) => (i as HTMLImageElement).naturalWidth > 0)))
    .toBe(true);
  return images.evaluateAll(
    (all, [u, v]) => {
      const canvas = document.createElement('canvas');
      [canvas.width, canvas.height] = [320, 180];
      const context = canvas.getContext('2d') as CanvasRenderingContext2D;
      for (const image of all as HTMLImageElement[]) {
        context.globalAlpha = Number(getComputedStyle(image.parentElement as HTMLElement).opacity);
        context.drawImage(image, 0, 0, 320, 180);
      }
      return [...context.getImageData(Math.round((u as number) * 319), Math.round((v as number) * 179), 1, 1).data.slice(0, 3)];
    },
    [x, y],
  );
}

test.beforeAll(async ({ browser }) => {
  test.setTimeout(120_000);
  await server.start();
  project = (await ask<{ id: string }>('/projects', { name: 'Layers' })).id;
  const tags = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv'];
  const high = ['-color_primaries', 'bt2020', '-color_trc', 'arib-std-b67', '-colorspace', 'bt2020nc', '-color_range', 'tv'];
  const round = "format=gbrap,geq=r=220:g=200:b=40:a='clip(255*(1.5-hypot(X-80-4*N\\,Y-90)/40)\\,0\\,255)'";
  const paths = [
    clip('ice.mkv', '-f', 'lavfi', '-i', 'color=0x305070:s=320x180:r=25:d=2', '-c:v', 'ffv1', '-pix_fmt', 'yuv420p', ...tags),
    clip('skiff.mkv', '-f', 'lavfi', '-i', `color=0xff00ff:s=320x180:r=25:d=1,${round}`, '-c:v', 'ffv1', '-pix_fmt', 'bgra'),
    clip('dawn.mkv', '-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25:d=1', '-c:v', 'ffv1', '-pix_fmt', 'yuv420p10le', ...high),
  ];
  const form = new FormData();
  for (const path of paths) form.append('file', new Blob([await readFile(path)]), path.split('/').at(-1));
  await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('pageerror', (error) => complaints.push(error.message));
  await page.goto(`${server.url}/p/${project}/sources`);
});
test.afterAll(() => server.remove());

test('the ledger tells what pictures are, and what needs care', async () => {
  const ledger = page.getByRole('complementary', { name: 'Rate ledger' });
  await page.getByText('skiff', { exact: true }).first().click();
  await expect(ledger).toContainText('It has alpha, with its colour straight');
  await expect(ledger.getByRole('region', { name: 'Pictures as stored' })).toContainText('RGB, 8 bit, with alpha');
  await page.getByText('dawn', { exact: true }).first().click();
  await expect(ledger).toContainText('High dynamic range (HLG)');
  await expect(ledger.getByRole('region', { name: 'Pictures as stored' })).toContainText('BT.2020, HLG, limited range');
});

test('the skiff lies over the ice, which is seen through it', async () => {
  type State = { document: { sources: { id: string; name: string }[]; timelines: { clips: object[] }[] } };
  const timeline = { id: 'cut', name: 'Main cut', rate: { num: 25, den: 1 }, width: 320, height: 180 };
  await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline } });
  await page.goto(`${server.url}/p/${project}/timelines/cut`);
  for (const name of ['ice', 'dawn', 'skiff']) {
    await page.getByTitle(`Place ${name} at the end`).click();
    await expect(page.getByTestId(`clip-${name}-picture`)).toBeVisible();
  }
  const { document } = await ask<State>(`/projects/${project}`);
  const skiff = document.timelines[0]?.clips[2] as { id: string; start: number };
  const command = { type: 'moveClips', timelineId: 'cut', clipIds: [skiff.id], byFrames: -skiff.start, byLanes: 1 };
  await ask(`/projects/${project}/commands`, { command });
  await page.getByTestId('clip-skiff-picture').click();
  await page.keyboard.press('Home');
  const near = (seen: number[], wanted: number[]): boolean => seen.every((v, i) => Math.abs(v - (wanted[i] as number)) < 14);
  await expect.poll(async () => near(await seenAt(0.25, 0.5), [220, 200, 40])).toBe(true);
  expect(near(await seenAt(0.9, 0.1), [0x30, 0x50, 0x70])).toBe(true);
  const opacity = page.getByRole('textbox', { name: 'Opacity' });
  await opacity.fill('50');
  await opacity.press('Enter');
  await expect.poll(async () => near(await seenAt(0.25, 0.5), [134, 140, 76])).toBe(true);
});

test('colours are those of most frames, or as chosen; what is converted is told before', async () => {
  await view('Render').click();
  await expect(page.getByRole('row', { name: /^Colours/ })).toContainText('BT.709, as');
  const notes = page.getByRole('list', { name: 'What becomes of its pictures' });
  await expect(notes).toContainText('dawn (BT.2020, HLG) is converted to BT.709 through linear light');
  await view('Timelines').click();
  await expect(page.getByTestId('high-range-shown')).toHaveCount(0);
  await page.getByRole('button', { name: 'More for this timeline' }).click();
  await page.getByRole('menuitem', { name: /^Name, rate/ }).click();
  await page.getByRole('combobox', { name: 'Colours' }).click();
  await page.getByRole('option', { name: 'BT.2020, HLG' }).click();
  await expect(page.getByText(/BT\.2020, HLG, as chosen; 2 sources are converted/)).toBeVisible();
  await page.getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByTestId('high-range-shown')).toBeVisible();
});

test('rendered, the file is in the colours that were chosen, and each frame its own', async () => {
  test.setTimeout(120_000);
  await view('Render').click();
  await expect(page.getByRole('list', { name: 'What becomes of its pictures' })).toContainText('Take 10 bit');
  await page.getByRole('switch', { name: '10 bit' }).check({ force: true });
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toContainText('As asked', { timeout: 90_000 });
  await expect(page.getByRole('row', { name: /^Colour / })).toContainText('transfer HLG');
  expect(complaints).toEqual([]);
});
