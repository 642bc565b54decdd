import { readdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { Fit } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { type Command, clipsFor, type Source } from '@thawline/project';
import { writeDemoClips } from '@thawline/rig';
import { JobsService } from './jobs/jobs.service.js';
import { newId, ProjectsService } from './projects/projects.service.js';
import { SourcesService } from './sources/sources.service.js';

export const DEMO_NAME = 'Ice-out at Lake Vessa';

/** Makes the demo project unless the data folder has it: clips by the rig, two timelines, every source checked. */
export async function seedDemo(app: NestExpressApplication, rigFolder: string, say: (line: string) => void): Promise<void> {
  const projects = app.get(ProjectsService);
  if ((await projects.list()).some((p) => p.name === DEMO_NAME)) return;
  say('Making the demo clips (about a minute, once) ...');
  const paths = await writeDemoClips(rigFolder, (name) => say(`  ${name}`));
  const { id } = await projects.create(DEMO_NAME);
  const sources = app.get(SourcesService);
  const batch = newId();
  const added: Source[] = [];
  for (const path of paths) {
    const files = path.endsWith('-0000.png') ? (await readdir(dirname(path))).map((name) => join(dirname(path), name)) : [path];
    added.push(...(await sources.addFrom(id, files, { sequence: files.length > 1 ? rate(24) : null, batch })).added);
  }
  const hero = added.find((s) => s.name === 'calving-hero');
  const main = newId();
  const teaser = newId();
  const run = (command: Command) => projects.command(id, command);
  if (hero) await run({ type: 'setClaim', sourceIds: [hero.id], claimed: rate(600) });
  await run({ type: 'addTimeline', timeline: { id: main, name: 'Main cut', rate: rate(25), width: 640, height: 360 } });
  await run({ type: 'addTimeline', timeline: { id: teaser, name: 'Teaser', rate: rate(24), width: 640, height: 360 } });
  const cut: [string, string, Fit][] = [
    ['warden-interview', main, 'nearest'],
    ['jetty-pan', main, 'nearest'],
    ['floe-drift', main, 'nearest'],
    ['ridge-stock', main, 'nearest'],
    ['phone-thaw', main, 'blend'],
    ['ridge-still', main, 'nearest'],
    ['floe-drift', teaser, 'nearest'],
    ['ridge-stock', teaser, 'pictures'],
    ['icicle-drip', teaser, 'nearest'],
  ];
  for (const [name, timelineId, fit] of cut) {
    const document = await projects.document(id);
    const timeline = document.timelines.find((t) => t.id === timelineId);
    const source = document.sources.find((s) => s.name === name);
    if (!timeline || !source) continue;
    const clips = clipsFor({ timeline, source, fit, newId }, await projects.timings(document));
    await run({ type: 'placeClips', timelineId, clips });
  }
  await app.get(JobsService).startChecks(
    id,
    added.map((s) => s.id),
  );
}
