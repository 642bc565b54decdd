/**
 * Takes one PNG of each main view from a running demo: node scripts/shots.mjs URL FOLDER [width height [dark]]
 * `npm run screenshots` starts the demo, calls this for docs/screenshots and ends it.
 */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';

const [url, folder, width = '1280', height = '800', scheme = 'light'] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const page = await browser.newPage({ viewport: { width: Number(width), height: Number(height) }, colorScheme: scheme });
const [project] = await (await fetch(`${url}/api/projects`)).json();
const { document } = await (await fetch(`${url}/api/projects/${project.id}`)).json();
const source = (name) => document.sources.find((s) => s.name === name)?.id;
const timeline = document.timelines[0];
const pan = timeline?.clips.find((c) => c.sourceId === source('jetty-pan') && c.laneId.startsWith('p'));
const at = `${url}/p/${project.id}`;
const shots = {
  sources: `${at}/sources/${source('calving-hero')}`,
  timelines: `${at}/timelines/${timeline?.id}/${pan?.id}?f=${(pan?.start ?? 0) + 12}`,
  check: `${at}/check/${source('calving-hero')}/31`,
  render: `${at}/render`,
};
for (const [name, address] of Object.entries(shots)) {
  await page.goto(address);
  await page.waitForLoadState('networkidle', { timeout: 6000 }).catch(() => undefined);
  await page.waitForTimeout(600);
  await page.screenshot({ path: join(folder, `${name}.png`) });
}
await browser.close();
