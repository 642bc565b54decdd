/**
 * Takes one PNG of each main view from a running demo: node scripts/shots.mjs URL FOLDER [width height [dark]]
 * `npm run screenshots` starts the demo, calls this for docs/screenshots and ends it.
 */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM } from './chromium.mjs';

const [url, folder, width = '1280', height = '800', scheme = 'light'] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage({ viewport: { width: Number(width), height: Number(height) }, colorScheme: scheme });
const [project] = await (await fetch(`${url}/api/projects`)).json();
const { document } = await (await fetch(`${url}/api/projects/${project.id}`)).json();
const source = (name) => document.sources.find((s) => s.name === name)?.id;
const timeline = document.timelines[0];
const pan = timeline?.clips.find((c) => c.sourceId === source('jetty-pan') && c.laneId.startsWith('p'));
const slow = document.timelines.find((t) => t.name === 'Slow studies');
const layers = document.timelines.find((t) => t.name === 'Layers');
const skiff = layers?.clips.find((c) => c.sourceId === source('keyed-skiff'));
const at = `${url}/p/${project.id}`;
const [compared] = await (await fetch(`${url}/api/projects/${project.id}/comparisons`)).json();
const shots = {
  storage: `${url}/storage`,
  sources: `${at}/sources/${source('calving-hero')}`,
  'read-at': `${at}/sources/${source('jetty-pan')}`,
  timelines: `${at}/timelines/${timeline?.id}/${pan?.id}?f=${(pan?.start ?? 0) + 12}`,
  carry: `${at}/timelines/${timeline?.id}`,
  layers: `${at}/timelines/${layers?.id}/${skiff?.id}?f=70`,
  retime: `${at}/retime/${slow?.id}/${slow?.clips.find((c) => c.laneId.startsWith('p'))?.id}/20`,
  align: `${at}/align/${source('skiff-a')}/${source('skiff-b')}`,
  fields: `${at}/sources/${source('old-reel')}/fields/118`,
  check: `${at}/check/${source('dock-reel')}/40`,
  'check-timeline': `${at}/check/timeline/${timeline?.id}/866`,
  render: `${at}/render`,
  ...(compared ? { compare: `${at}/check/compare/${compared.jobId}/14` } : {}),
};
/** A backup, and what is in it. */
async function showBackup() {
  const backups = page.getByRole('region', { name: 'Backups' });
  await backups.getByRole('button', { name: 'Make a backup now' }).click();
  await backups.getByRole('button', { name: /made by hand/ }).click();
  await page.waitForTimeout(800);
}

/** The panel as it stands before anything is done. */
async function showReadAt() {
  await page.getByRole('button', { name: 'Read at…' }).first().click();
  await page.getByRole('dialog').getByLabel('Read at', { exact: true }).fill('25');
  await page.waitForTimeout(600);
}

/** A picture that is laid by hand. */
async function showPose() {
  await page.getByRole('button', { name: 'Lay by hand' }).click();
  await page.waitForTimeout(800);
}

/** What carrying would come to, before it is done. */
async function showCarry() {
  await page.getByRole('button', { name: 'Carry to another rate' }).click();
  await page.getByRole('dialog').getByLabel('Carry to', { exact: true }).fill('24');
  await page.waitForTimeout(600);
}

for (const [name, address] of Object.entries(shots)) {
  await page.goto(address);
  await page.waitForLoadState('networkidle', { timeout: 6000 }).catch(() => undefined);
  await page.waitForTimeout(600);
  if (name === 'storage') await showBackup();
  if (name === 'read-at') await showReadAt();
  if (name === 'carry') await showCarry();
  if (name === 'layers') await showPose();
  // The price is known when a little of it was tried.
  if (name === 'render') await page.getByTestId('cost').waitFor({ timeout: 30_000 });
  await page.screenshot({ path: join(folder, `${name}.png`) });
}
await browser.close();
