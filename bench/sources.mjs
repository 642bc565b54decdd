/**
 * npm run bench -- sources: 500 sources of one minute each, used in place. How long until the list is on screen (server and
 * browser together, a new browser each time), a batch Read at of all 500 with 200 clips on a timeline, whether scrolling ever
 * shows a blank row, and how long a step to the next picture takes. Medians of five.
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM } from '../scripts/chromium.mjs';
import { served } from '../scripts/served.mjs';

const SOURCES = 500;
const CLIPS = 200;
const ROUNDS = 5;
const folder = mkdtempSync(join(tmpdir(), 'thawline-bench-'));
const footage = join(folder, 'footage');
mkdirSync(footage);
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const say = (line) => process.stdout.write(`${line}\n`);
const ffmpeg = (...args) => {
  const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args]);
  if (made.status !== 0) throw new Error(String(made.stderr));
};

say(`Making ${SOURCES} files of one minute ...`);
const rates = ['25', '24', '30000/1001', '50', '24000/1001'];
rates.forEach((r, i) => {
  const input = `testsrc2=s=64x36:r=${r}:d=60,hue=h=${i * 40}`;
  ffmpeg('-f', 'lavfi', '-i', input, '-c:v', 'libx264', '-preset', 'ultrafast', '-g', '25', join(folder, `base${i}.mp4`));
});
for (let i = 0; i < SOURCES; i++) {
  // A free box behind the film: other bytes, so that each is a file of its own.
  const box = Buffer.alloc(16);
  box.writeUInt32BE(16, 0);
  box.write('free', 4);
  box.writeUInt32BE(i, 12);
  const name = `take-${String(i).padStart(3, '0')}-${i % 7 ? 'lake' : 'shore'}.mp4`;
  writeFileSync(join(footage, name), Buffer.concat([readFileSync(join(folder, `base${i % rates.length}.mp4`)), box]));
}

const { url, ask, settled, end } = await served({ THAWLINE_DATA: join(folder, 'data'), THAWLINE_MEDIA: footage });
try {
  const { id } = await ask('/projects', { name: 'Five hundred' });
  const { items } = await ask('/folders/scan', { paths: ['footage'] });
  let at = performance.now();
  for (let i = 0; i < items.length; i += 8) {
    const chunk = items.slice(i, i + 8).map(({ path, kind }) => ({ path, kind }));
    await ask(`/projects/${id}/sources/in-place`, { items: chunk, batch: 'all' });
  }
  say(`${items.length} added in place in ${((performance.now() - at) / 1000).toFixed(0)} s; making their proxies ...`);
  at = performance.now();
  await settled(id);
  say(`proxies of ${SOURCES} minutes in ${((performance.now() - at) / 1000).toFixed(0)} s`);
  const { document } = await ask(`/projects/${id}`);
  const timeline = { id: 't', name: 'Cut', rate: { num: 25, den: 1 }, width: 64, height: 36 };
  await ask(`/projects/${id}/commands`, { command: { type: 'addTimeline', timeline } });
  const clips = document.sources.slice(0, CLIPS).map((s, i) => ({
    id: `c${i}`,
    sourceId: s.id,
    laneId: 'p1',
    link: null,
    start: i * 250,
    length: 250,
    inPicture: 100,
    headTrim: 0,
    fit: 'nearest',
    speed: { num: 1, den: 1 },
    cut: null,
  }));
  await ask(`/projects/${id}/commands`, { command: { type: 'placeClips', timelineId: 't', clips } });

  const opening = [];
  for (let round = 0; round < ROUNDS; round++) {
    const browser = await chromium.launch(CHROMIUM);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    at = performance.now();
    await page.goto(`${url}/p/${id}/sources`, { waitUntil: 'commit' });
    await page.getByText('take-005-lake').first().waitFor();
    opening.push((performance.now() - at) / 1000);
    await browser.close();
  }
  say(`list of ${SOURCES} on screen in ${median(opening).toFixed(2)} s (at most 1.00)`);

  const reading = [];
  for (let round = 0; round < ROUNDS; round++) {
    const rate = { num: round % 2 ? 25 : 12, den: 1 };
    const readings = document.sources.map((s) => ({
      sourceId: s.id,
      reading: { rate, pictures: 'once', from: 'typed', sound: 'along' },
    }));
    at = performance.now();
    await ask(`/projects/${id}/commands`, { command: { type: 'readAt', readings, uses: 'move' } });
    reading.push((performance.now() - at) / 1000);
  }
  say(`Read at of ${SOURCES} sources, ${CLIPS} clips following, in ${median(reading).toFixed(2)} s (at most 1.00)`);

  const browser = await chromium.launch(CHROMIUM);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/p/${id}/sources`);
  await page.getByText('take-005-lake').first().waitFor();
  const scrolled = await page.evaluate(async () => {
    const grid = document.querySelector('[role=grid][aria-label=Sources]');
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    let frames = 0;
    let blank = 0;
    while (grid.scrollTop + grid.clientHeight < grid.scrollHeight - 1) {
      grid.scrollTop += 160;
      await frame();
      await frame();
      frames++;
      const box = grid.getBoundingClientRect();
      for (let y = box.top + 40; y < box.bottom - 8; y += 26) {
        const row = document.elementFromPoint(box.left + 200, y)?.closest('[role=row]');
        if (!row?.textContent?.includes('take-')) blank++;
      }
    }
    return { frames, blank };
  });
  say(`scrolled past all ${SOURCES} in ${scrolled.frames} steps of 160 pixels: ${scrolled.blank} blank rows (none allowed)`);

  const hd = join(footage, 'hd.mp4');
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=25:d=4,noise=alls=8:allf=t', '-c:v', 'libx264', '-preset', 'veryfast', hd);
  const { added } = await ask(`/projects/${id}/sources/in-place`, { items: [{ path: 'footage/hd.mp4', kind: 'film' }] });
  await settled(id);
  const large = { ...timeline, id: 'u', name: 'Steps', width: 1920, height: 1080 };
  await ask(`/projects/${id}/commands`, { command: { type: 'addTimeline', timeline: large } });
  const clip = { ...clips[0], id: 'hd', sourceId: added[0].id, length: 100, start: 0, inPicture: 0 };
  await ask(`/projects/${id}/commands`, { command: { type: 'placeClips', timelineId: 'u', clips: [clip] } });
  await page.goto(`${url}/p/${id}/timelines/u?f=5`);
  const picture = page.getByTestId('viewer').locator('img');
  await picture.waitFor();
  const steps = await page.evaluate(async () => {
    const viewer = document.querySelector('[data-testid=viewer]');
    const times = [];
    for (let i = 0; i < 60; i++) {
      const before = viewer.getAttribute('data-frame');
      const img = viewer.querySelector('img');
      const started = performance.now();
      document.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', code: 'ArrowRight', bubbles: true }));
      while (viewer.getAttribute('data-frame') === before && performance.now() - started < 1000)
        await new Promise((r) => setTimeout(r, 1));
      await (viewer.querySelector('img') ?? img).decode().catch(() => undefined);
      times.push(performance.now() - started);
    }
    return times;
  });
  say(`a step to the next picture of 1080p material takes ${median(steps).toFixed(0)} ms at the median (at most 50)`);
  await browser.close();
} finally {
  end();
  rmSync(folder, { recursive: true, force: true });
}
