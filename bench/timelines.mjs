/**
 * npm run bench -- timelines: a timeline of 2,000 clips. How long until it is on screen (server and browser together, a new
 * browser each time), the drawn frames a second while it is panned and zoomed (the browser's own frame timing), one edit
 * applied, a step map of an hour at 59.94, and what the player shows of 10 s at 25. Medians of five. Beside them stands a
 * public yardstick of the same run: the time of an empty page, and the frames a second of one that only scrolls.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { stepMap } from '../packages/core/dist/cadence/index.js';
import { constantTiming, rate } from '../packages/core/dist/time/index.js';
import { apply } from '../packages/project/dist/index.js';
import { CHROMIUM } from '../scripts/chromium.mjs';
import { served } from '../scripts/served.mjs';

const CLIPS = 2000;
const ROUNDS = 5;
const folder = mkdtempSync(join(tmpdir(), 'thawline-bench-'));
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const say = (line) => process.stdout.write(`${line}\n`);

const film = join(folder, 'lake.mp4');
const made = spawnSync('ffmpeg', [
  ...['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=640x360:r=30000/1001:d=60'],
  ...['-f', 'lavfi', '-i', 'sine=frequency=300:duration=60', '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', film],
]);
if (made.status !== 0) throw new Error(String(made.stderr));

const { url, ask, settled, end } = await served({ THAWLINE_DATA: join(folder, 'data') });
/** Moves the view for a while and tells the time between drawn frames. */
const moving = (page, what) =>
  page.evaluate(async (way) => {
    const view = document.querySelector('[data-testid=lanes]') ?? document.scrollingElement;
    const times = [];
    const until = performance.now() + 2500;
    const box = view.getBoundingClientRect();
    let n = 0;
    await new Promise((resolve) => {
      const step = (now) => {
        times.push(now);
        if (now > until) return resolve();
        n++;
        if (way === 'pan') view.scrollLeft = (n * 37) % Math.max(1, view.scrollWidth - view.clientWidth);
        else if (way === 'scroll') view.scrollTop = (n * 37) % Math.max(1, view.scrollHeight - view.clientHeight);
        else
          view.dispatchEvent(
            new WheelEvent('wheel', {
              deltaY: Math.floor(n / 60) % 2 ? 25 : -25,
              ctrlKey: true,
              bubbles: true,
              cancelable: true,
              clientX: box.left + 500,
              clientY: box.top + 40,
            }),
          );
        requestAnimationFrame(step);
      };
      requestAnimationFrame(step);
    });
    return ((times.length - 1) * 1000) / (times.at(-1) - times[0]);
  }, what);

try {
  const { id } = await ask('/projects', { name: 'Two thousand' });
  const form = new FormData();
  form.append('file', new Blob([readFileSync(film)]), 'lake.mp4');
  const { added } = await (await fetch(`${url}/api/projects/${id}/sources`, { method: 'POST', body: form })).json();
  const timeline = { id: 't', name: 'Cut', rate: { num: 25, den: 1 }, width: 640, height: 360 };
  await ask(`/projects/${id}/commands`, { command: { type: 'addTimeline', timeline } });
  const clips = Array.from({ length: CLIPS / 2 }, (_, i) =>
    ['p1', 's1'].map((laneId) => ({
      id: `${laneId}-${i}`,
      sourceId: added[0].id,
      laneId,
      link: `l${i}`,
      start: i * 50,
      length: 50,
      inPicture: (i * 13) % 1500,
      headTrim: 0,
      fit: 'nearest',
      speed: { num: 1, den: 1 },
      cut: null,
    })),
  ).flat();
  await ask(`/projects/${id}/commands`, { command: { type: 'placeClips', timelineId: 't', clips } });
  await settled(id);

  const opening = [];
  const empty = [];
  const rates = { pan: [], zoom: [], scroll: [] };
  for (let round = 0; round < ROUNDS; round++) {
    const browser = await chromium.launch(CHROMIUM);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    let at = performance.now();
    await page.goto(`${url}/api/health`);
    empty.push((performance.now() - at) / 1000);
    at = performance.now();
    await page.goto(`${url}/p/${id}/timelines/t`, { waitUntil: 'commit' });
    await page.getByTestId('painted-p1').waitFor();
    opening.push((performance.now() - at) / 1000);
    await page.waitForTimeout(1500);
    rates.zoom.push(await moving(page, 'zoom'));
    for (let i = 0; i < 6; i++) await page.getByRole('button', { name: 'Look closer' }).click();
    rates.pan.push(await moving(page, 'pan'));
    await page.setContent(`<body>${'<p>line</p>'.repeat(2000)}</body>`);
    rates.scroll.push(await moving(page, 'scroll'));
    await browser.close();
  }
  say(
    `${CLIPS} clips on screen in ${median(opening).toFixed(2)} s (at most 1.00); an empty page in ${median(empty).toFixed(2)} s`,
  );
  const [pan, zoom, scroll] = [median(rates.pan), median(rates.zoom), median(rates.scroll)];
  say(
    `panned at ${pan.toFixed(0)}, zoomed at ${zoom.toFixed(0)} drawn frames a second (at least 50); a plain page scrolls at ${scroll.toFixed(0)}`,
  );
  say(`  of that plain page's rate: pan ${(pan / scroll).toFixed(2)}, zoom ${(zoom / scroll).toFixed(2)}`);

  const { document } = await ask(`/projects/${id}`);
  const here = [];
  const there = [];
  for (let round = 0; round < ROUNDS * 3; round++) {
    const command = { type: 'trimClip', timelineId: 't', clipId: 'p1-700', start: 35_000, end: 35_040 + (round % 8) };
    let at = performance.now();
    if (!apply(document, command).ok) throw new Error('refused');
    here.push(performance.now() - at);
    at = performance.now();
    await ask(`/projects/${id}/commands`, { command });
    there.push(performance.now() - at);
  }
  say(
    `one edit applied in ${median(here).toFixed(1)} ms (at most 50), stored and answered by the server in ${median(there).toFixed(0)} ms`,
  );

  const maps = [];
  const hour = { timing: constantTiming(rate(24000, 1001), 200_000), timeline: rate(60000, 1001), fit: 'nearest' };
  for (let round = 0; round < ROUNDS * 3; round++) {
    const at = performance.now();
    stepMap({ ...hour, inPicture: 0, headTrim: 0, length: 215_784 });
    maps.push(performance.now() - at);
  }
  say(`step map of an hour at 59.94 in ${median(maps).toFixed(1)} ms (at most 20)`);

  const browser = await chromium.launch(CHROMIUM);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const left = [];
  for (let round = 0; round < 3; round++) {
    await page.goto(`${url}/p/${id}/timelines/t?f=${1000 * round}`);
    await page.getByTestId('painted-p1').waitFor();
    await page.waitForTimeout(1500);
    await page.keyboard.press('Space');
    await page.waitForTimeout(10_000);
    const told = await page.getByTestId('player-count').textContent();
    const [shown = 0, dropped = 0] = (told ?? '').match(/\d+/g)?.map(Number) ?? [];
    left.push(dropped / Math.max(1, shown + dropped));
    await page.keyboard.press('Space');
  }
  say(`played at 25: ${(median(left) * 100).toFixed(1)} % of the frames left out by the player`);
  await browser.close();
} finally {
  end();
  rmSync(folder, { recursive: true, force: true });
}
