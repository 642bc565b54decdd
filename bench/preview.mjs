/**
 * npm run bench -- preview: pictures made by motion in the browser, 640x360, two workers, headless Chromium. From the press on "motion" on
 * a clip of which nothing was made: how long until the first made picture stands in the strip, and made pictures a second until all are
 * there (server, decoding of JPEGs, colours and drawing included). Medians of five, each in a new page. Yardstick of the same run:
 * FFmpeg's bare decode of the same pictures, in pictures a second.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, openAsBlob, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM } from '../scripts/chromium.mjs';
import { served } from '../scripts/served.mjs';

const ROUNDS = 5;
const folder = mkdtempSync(join(tmpdir(), 'thawline-bench-'));
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const say = (line) => process.stdout.write(`${line}\n`);

const rig = join('.cache', 'rig');
if (spawnSync(process.execPath, ['scripts/rig.mjs', rig], { stdio: 'inherit' }).status !== 0) throw new Error('no clips');
const pan = join(rig, 'jetty-pan.mp4');
const { url, ask, settled, end } = await served({ THAWLINE_DATA: join(folder, 'data') });
const browser = await chromium.launch(CHROMIUM);
const first = [];
const paces = [];
const decodes = [];
try {
  const { id } = await ask('/projects', { name: 'Preview' });
  const form = new FormData();
  form.append('file', await openAsBlob(pan), 'jetty-pan.mp4');
  await fetch(`${url}/api/projects/${id}/sources`, { method: 'POST', body: form });
  await settled(id);
  const { document } = await ask(`/projects/${id}`);
  const [source] = document.sources;
  const command = (body) => ask(`/projects/${id}/commands`, { command: body });
  const rate = { num: 24, den: 1 };
  const timeline = { id: 't', name: 'Cut', rate, width: 640, height: 360, startFrame: 0, dropFrame: false };
  await command({ type: 'addTimeline', timeline });
  const clip = { id: 'c', sourceId: source.id, laneId: 'p1', link: null, start: 0, length: 190, inPicture: 0, headTrim: 0 };
  const plain = { ...clip, fit: 'nearest', speed: { num: 1, den: 1 }, cut: null, kept: null };
  await command({ type: 'placeClips', timelineId: 't', clips: [plain] });
  for (let round = 0; round < ROUNDS; round++) {
    const began = performance.now();
    spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-i', pan, '-an', '-f', 'null', '-']);
    decodes.push(240 / ((performance.now() - began) / 1000));
    await command({ type: 'setFit', timelineId: 't', clipIds: ['c'], fit: 'nearest' });
    const page = await browser.newPage({ viewport: { width: 1280, height: 900 } });
    await page.goto(`${url}/p/${id}/retime/t/c/100`);
    await page.getByTestId('made-100').waitFor();
    await page.waitForTimeout(1500);
    const found = await page.evaluate(async () => {
      const group = document.querySelector('[aria-label="Between pictures"]');
      const press = [...group.querySelectorAll('label')].find((l) => l.textContent === 'motion');
      const start = performance.now();
      press.click();
      const until = (done) =>
        new Promise((resolve) => {
          const look = () => (done() ? resolve(performance.now() - start) : requestAnimationFrame(look));
          look();
        });
      const stands = () => document.querySelector('[data-state="made"][data-ready="true"] [data-state="ready"]') !== null;
      const one = await until(stands);
      const text = () => document.querySelector('[data-testid="made-progress"]')?.textContent ?? '';
      const all = await until(() => text().startsWith('all '));
      return { one, all, count: Number(/all (\d+)/.exec(text())?.[1]) };
    });
    first.push(found.one);
    paces.push(found.count / (found.all / 1000));
    await page.close();
  }
} finally {
  await browser.close();
  end();
  rmSync(folder, { recursive: true, force: true });
}
say(`first made picture after the press: ${median(first).toFixed(0)} ms (${first.map((t) => t.toFixed(0)).join(', ')})`);
say(
  `made pictures a second: ${median(paces).toFixed(1)} (${paces.map((p) => p.toFixed(1)).join(', ')}), ${availableParallelism()} cores`,
);
say(`FFmpeg's bare decode of the same: ${median(decodes).toFixed(0)} pictures a second`);
