import { readFile } from 'node:fs/promises';
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { clips, Server } from './thaw.js';

/** Every view as somebody finds it who does not see it, or not well: axe-core's serious findings, in both schemes. */
const server = new Server();
let page: Page;
let project = '';
let ids = { a: '', b: '', timeline: '', clip: '' };

const { ask } = server;
const command = (one: object) => ask(`/projects/${project}/commands`, { command: one });
const settled = async (): Promise<void> => {
  const open = (j: { state: string }) => j.state === 'queued' || j.state === 'running';
  while ((await ask<{ state: string }[]>(`/projects/${project}/jobs`)).some(open)) await page.waitForTimeout(200);
};

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  await server.start();
  page = await (await browser.newContext()).newPage();
  project = (await ask<{ id: string }>('/projects', { name: 'Thaw' })).id;
  const form = new FormData();
  for (const path of clips('skiff-a', 'skiff-b')) form.append('file', new Blob([await readFile(path)]), path.split('/').at(-1));
  const reply = await fetch(`${server.url}/api/projects/${project}/sources`, { method: 'POST', body: form });
  const { added } = (await reply.json()) as { added: { id: string }[] };
  ids = { a: added[0]?.id ?? '', b: added[1]?.id ?? '', timeline: 'line', clip: 'clip' };
  const timeline = { id: ids.timeline, name: 'Main cut', rate: { num: 24, den: 1 }, width: 320, height: 180 };
  await command({ type: 'addTimeline', timeline: { ...timeline, startFrame: 0, dropFrame: false } });
  const place = {
    laneId: 'p1',
    link: null,
    start: 0,
    length: 40,
    inPicture: 0,
    headTrim: 0,
    fit: 'blend',
    speed: { num: 1, den: 1 },
  };
  const plain = { cut: null, framing: 'inside', curve: null, mix: 'stored', shutter: 0, instead: [], keptAt: null, sound: null };
  const clip = { ...place, ...plain, id: ids.clip, sourceId: ids.b, level: 0, slip: 0, label: null, kept: null };
  await command({ type: 'placeClips', timelineId: ids.timeline, clips: [clip] });
  await ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [ids.a] });
  await ask(`/projects/${project}/jobs`, { kind: 'align', a: ids.a, b: ids.b });
  await ask(`/projects/${project}/jobs`, { kind: 'render', timelineId: ids.timeline });
  await settled();
});
test.afterAll(() => server.remove());

const VIEWS: readonly (readonly [string, () => string])[] = [
  ['all projects', () => '/'],
  ['storage', () => '/storage'],
  ['sources', () => `/p/${project}/sources/${ids.a}`],
  ['timelines', () => `/p/${project}/timelines/${ids.timeline}/${ids.clip}`],
  ['retime', () => `/p/${project}/retime/${ids.timeline}/${ids.clip}`],
  ['align', () => `/p/${project}/align/${ids.a}/${ids.b}`],
  ['check', () => `/p/${project}/check/${ids.a}`],
  ['render', () => `/p/${project}/render`],
];

for (const [name, path] of VIEWS)
  test(`nothing serious stands in the way of anybody: ${name}, in both schemes`, async () => {
    await page.goto(`${server.url}${path()}`);
    await page.waitForLoadState('networkidle');
    const found: string[] = [];
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
      await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', colorScheme);
      const { violations } = await new AxeBuilder({ page }).analyze();
      for (const { id, impact, nodes } of violations)
        if (impact === 'serious' || impact === 'critical')
          found.push(`${colorScheme}: ${id}: ${nodes.map((n) => n.target.join(' ')).join(' | ')}`);
    }
    expect(found).toEqual([]);
  });
