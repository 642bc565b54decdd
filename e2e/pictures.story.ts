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

/** Red, green and blue of the viewer as it is on the screen, at shares of its width and height. */
async function seenAt(x: number, y: number): Promise<number[]> {
  const viewer = page.getByTestId('viewer');
  const images = viewer.locator('img');
  await expect
    .poll(() => images.evaluateAll((all) => all.length > 0 && all.every((i) => (i as HTMLImageElement).naturalWidth > 0)))
    .toBe(true);
  const shot = join(server.folder, 'seen.png');
  await viewer.screenshot({ path: shot });
  const args = [
    '-nostdin',
    '-v',
    'error',
    '-i',
    shot,
    '-vf',
    'scale=320:180:flags=neighbor',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'rgb24',
  ];
  const pixels = spawnSync('ffmpeg', [...args, 'pipe:1'], { maxBuffer: 1 << 26 }).stdout;
  const at = (Math.round(y * 179) * 320 + Math.round(x * 319)) * 3;
  return [...pixels.subarray(at, at + 3)];
}

const near = (seen: readonly number[], wanted: readonly number[]): boolean =>
  seen.every((v, i) => Math.abs(v - (wanted[i] as number)) < 14);
/** The disc over the ice, and the ice. */
const [DISC, ICE] = [
  [220, 200, 40],
  [0x30, 0x50, 0x70],
];

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
  await expect.poll(async () => near(await seenAt(0.25, 0.5), DISC)).toBe(true);
  expect(near(await seenAt(0.9, 0.1), ICE)).toBe(true);
  const opacity = page.getByRole('textbox', { name: 'Opacity' });
  await opacity.fill('50');
  await opacity.press('Enter');
  await expect.poll(async () => near(await seenAt(0.25, 0.5), [134, 140, 76])).toBe(true);
});

test('laid by hand the picture goes where it is pulled, grows at a corner and turns at its handle', async () => {
  await page.getByRole('button', { name: 'Lay by hand' }).click();
  const opacity = page.getByRole('textbox', { name: 'Opacity' });
  await opacity.fill('100');
  await opacity.press('Enter');
  const viewer = await page.getByTestId('viewer').boundingBox();
  if (!viewer) throw new Error('no viewer');
  const pull = async (grip: string, by: { x: number; y: number }): Promise<void> => {
    const box = await page.locator(`[data-grip="${grip}"]`).last().boundingBox();
    if (!box) throw new Error(grip);
    const [x, y] = [box.x + box.width / 2, box.y + (grip === 'move' ? box.height / 4 : box.height / 2)];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + (by.x * viewer.width) / 2, y + (by.y * viewer.height) / 2);
    await page.mouse.move(x + by.x * viewer.width, y + by.y * viewer.height);
    await page.mouse.up();
  };
  // The disc was a quarter from the left: half a frame to the right it is at three quarters.
  await pull('move', { x: 0.5, y: 0 });
  await expect(page.getByRole('textbox', { name: 'Across', exact: true })).toHaveValue(/^1(59|60|61) px$/);
  await expect.poll(async () => near(await seenAt(0.75, 0.5), DISC)).toBe(true);
  expect(near(await seenAt(0.25, 0.5), ICE)).toBe(true);
  const frame = await page.getByTestId('viewer').getAttribute('data-frame');
  await page.getByRole('application', { name: /^skiff/ }).press('Shift+ArrowLeft');
  await expect(page.getByRole('textbox', { name: 'Across', exact: true })).toHaveValue(/^1(49|50|51) px$/);
  // The playhead stays: the keys are the picture's while it has the focus.
  await expect(page.getByTestId('viewer')).toHaveAttribute('data-frame', frame ?? '');
  await page.getByRole('button', { name: 'As framed' }).click();
  await expect(page.getByRole('textbox', { name: 'Across', exact: true })).toHaveValue('0 px');
  // Half as large about its middle: the disc is a quarter nearer to that.
  await pull('scale', { x: 0.25, y: -0.25 });
  await expect(page.getByRole('textbox', { name: 'Width' })).toHaveValue(/^(49|50|51)(\.\d)? %$/);
  await expect.poll(async () => near(await seenAt(0.375, 0.5), DISC)).toBe(true);
  await page.getByRole('textbox', { name: 'Turn' }).fill('90');
  await page.getByRole('textbox', { name: 'Turn' }).press('Enter');
  // What was left is above: an eighth of the width is 40 of 180 lines.
  await expect.poll(async () => near(await seenAt(0.5, 0.5 - 40 / 180), DISC)).toBe(true);
  await page.getByRole('button', { name: 'As framed' }).click();
  await page.getByRole('button', { name: 'Lay by hand' }).click();
});

test('where nothing is one sees what stands behind: black, grey, white or squares', async () => {
  await page.getByTestId('clip-ice-picture').click();
  await page.getByRole('button', { name: 'More for this clip' }).click();
  await page.getByRole('menuitem', { name: /^Switch off/ }).click();
  await expect.poll(async () => near(await seenAt(0.9, 0.1), [0, 0, 0])).toBe(true);
  for (const [name, colour] of [
    ['black', [128, 128, 128]],
    ['grey', [255, 255, 255]],
  ] as const) {
    await page.getByRole('button', { name: `Behind the pictures: ${name}` }).click();
    expect(near(await seenAt(0.9, 0.1), colour)).toBe(true);
  }
  expect(near(await seenAt(0.25, 0.5), DISC)).toBe(true);
  await page.getByRole('button', { name: 'Undo' }).click();
});

test('a picture of all around, said by hand, is looked around in, and its file says so again', async () => {
  test.setTimeout(120_000);
  // Red ahead, green at the left edge and at the right: what is behind.
  const seam = "format=gbrp,geq=r='if(lt(abs(X-160)\\,80)\\,220\\,20)':g='if(lt(abs(X-160)\\,80)\\,20\\,200)':b=30";
  const path = clip(
    'round.mkv',
    '-f',
    'lavfi',
    '-i',
    `color=black:s=320x160:r=25:d=1,${seam}`,
    '-c:v',
    'ffv1',
    '-pix_fmt',
    'yuv420p',
  );
  const form = new FormData();
  form.append('file', new Blob([await readFile(path)]), 'round.mkv');
  await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  await view('Sources').click();
  await page.getByText('round', { exact: true }).first().click();
  await page.getByRole('combobox', { name: 'Seen as' }).click();
  await page.getByRole('option', { name: /^all around/ }).click();
  await expect(page.getByRole('complementary', { name: 'Rate ledger' })).toContainText('left and right edge are neighbours');
  const timeline = { id: 'around', name: 'Around', rate: { num: 25, den: 1 }, width: 320, height: 160 };
  await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline } });
  await page.goto(`${server.url}/p/${project}/timelines/around`);
  await page.getByTitle('Place round at the end').click();
  await page.keyboard.press('Home');
  const [red, green] = [
    [220, 20, 30],
    [20, 200, 30],
  ];
  await expect.poll(async () => near(await seenAt(0.5, 0.5), red)).toBe(true);
  await page.getByText('Its seam').click();
  await expect.poll(async () => near(await seenAt(0.5, 0.5), green)).toBe(true);
  await page.getByText('Look around').click();
  await expect.poll(async () => near(await seenAt(0.5, 0.5), red)).toBe(true);
  const around = page.getByTestId('around');
  for (let i = 0; i < 18; i++) await around.press('ArrowRight');
  await expect(page.getByRole('application', { name: /^Looking 180/ })).toBeVisible();
  await expect.poll(async () => near(await seenAt(0.5, 0.5), green)).toBe(true);
  await page.getByText('All of it').click();
  await view('Render').click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByRole('row', { name: /^All around/ })).toContainText('equirectangular', { timeout: 60_000 });
  await page.goto(`${server.url}/p/${project}/timelines/cut`);
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
  await page.getByRole('combobox', { name: 'Depth' }).click();
  await page.getByRole('option', { name: '10 bit' }).click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('stamp')).toContainText('As asked', { timeout: 90_000 });
  await expect(page.getByRole('row', { name: /^Colour / })).toContainText('transfer HLG');
  expect(complaints).toEqual([]);
});
