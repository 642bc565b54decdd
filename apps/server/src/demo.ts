import { existsSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { startJobSchema } from '@thawline/contract';
import type { Fit } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import {
  type Command,
  clipsFor,
  commandSchema,
  mappingOf,
  noTiming,
  type Project,
  type Source,
  slowed,
  timelineAsSource,
} from '@thawline/project';
import { writeDemoClips, writePictureClips } from '@thawline/rig';
import { make } from '@thawline/work';
import PQueue from 'p-queue';
import { z } from 'zod';
import { Store } from './database/store.js';
import { StartsService } from './jobs/starts.service.js';
import { newId, ProjectsService } from './projects/projects.service.js';
import { SourcesService } from './sources/sources.service.js';

export const DEMO_NAME = 'Ice-out at Lake Vessa';

/** Stored while the demo is being made, so that a restarted server resumes it. */
const STATE = { name: 'demo', schema: z.enum(['making', 'made']) };

/**
 * Makes the demo project unless the data folder has it: clips by the rig, a cut at 25, the same carried to 24, one at 59.94
 * that holds the latter, every source checked, and the skiff's two cameras aligned.
 * @returns what fills the project, clip by clip as they are made; null where there is nothing to do. The project is there when this resolves.
 */
export async function beginDemo(
  app: NestExpressApplication,
  rigFolder: string,
  say: (line: string) => void,
): Promise<(() => Promise<void>) | null> {
  const [projects, store] = [app.get(ProjectsService), app.get(Store)];
  const known = (await projects.list()).find((p) => p.name === DEMO_NAME);
  if (known && (await store.setting(STATE)) !== 'making') return null;
  await store.changeSetting(STATE, () => 'making');
  const id = known?.id ?? (await projects.create(DEMO_NAME)).id;
  return async () => {
    say('Making the demo clips, once: each appears in the project when it is made ...');
    await fillDemo(app, id, await addClips(app, id, rigFolder, say));
    await store.changeSetting(STATE, () => 'made');
    say('The demo is whole.');
  };
}

/** Adds each clip as soon as it is made; those that the project has already stay. One step to undo for all of them. */
async function addClips(
  app: NestExpressApplication,
  id: string,
  rigFolder: string,
  say: (line: string) => void,
): Promise<Source[]> {
  const [projects, sources] = [app.get(ProjectsService), app.get(SourcesService)];
  const batch = newId();
  const add = async (name: string, path: string): Promise<void> => {
    if ((await projects.document(id)).sources.some((s) => s.name === name)) return;
    const files = path.endsWith('-0000.png') ? (await readdir(dirname(path))).map((file) => join(dirname(path), file)) : [path];
    await sources.addFrom(id, files, { sequence: files.length > 1 ? rate(24) : null, batch });
    say(`  ${name}`);
  };
  // One after the other, however many are made at once.
  const adding = new PQueue({ concurrency: 1 });
  const added: Promise<void>[] = [];
  const others = writePictureClips(rigFolder);
  others.catch(() => undefined);
  await writeDemoClips(rigFolder, (name, path) => {
    const one = adding.add(() => add(name, path));
    // Awaited below, with the others.
    one.catch(() => undefined);
    added.push(one);
  });
  await Promise.all(added);
  await add(COPY, await convertedCopy(rigFolder));
  for (const { name, path } of await others) await add(name, path);
  return [...(await projects.document(id)).sources];
}

/** Claims, timelines, checks and renders of the demo, once its clips are there. */
async function fillDemo(app: NestExpressApplication, id: string, added: readonly Source[]): Promise<void> {
  const projects = app.get(ProjectsService);
  const hero = added.find((s) => s.name === 'calving-hero');
  const main = newId();
  const teaser = newId();
  const festival = newId();
  const run = (command: Command) => projects.command(id, command);
  if (hero) await run({ type: 'setClaim', sourceIds: [hero.id], claimed: rate(600) });
  const size = { width: 640, height: 360, startFrame: 0, dropFrame: false };
  await run({ type: 'addTimeline', timeline: { id: main, name: 'Main cut', rate: rate(25), ...size, startFrame: 90_000 } });
  const place = async (timelineId: string, names: readonly [string, Fit][]): Promise<void> => {
    for (const [name, fit] of names) {
      const document = await projects.document(id);
      const timeline = document.timelines.find((t) => t.id === timelineId);
      const source = [...document.sources, ...nestable(document)].find((s) => s.name === name);
      if (!timeline || !source) continue;
      const clips = clipsFor({ timeline, source, fit, newId }, await projects.timings(document));
      await run({ type: 'placeClips', timelineId, clips });
    }
  };
  await place(main, [
    ['warden-interview', 'nearest'],
    ['jetty-pan', 'nearest'],
    ['floe-drift', 'nearest'],
    ['ridge-stock', 'nearest'],
    ['phone-thaw', 'blend'],
    ['ridge-still', 'nearest'],
  ]);
  await run({ type: 'carryTimeline', timelineId: main, newId: teaser, name: 'Teaser', rate: rate(24) });
  await run({
    type: 'addTimeline',
    timeline: { id: festival, name: 'Festival', rate: rate(60000, 1001), ...size, startFrame: 215_784, dropFrame: true },
  });
  await place(festival, [
    ['floe-drift', 'nearest'],
    ['icicle-drip', 'nearest'],
    ['Teaser', 'nearest'],
    ['calving-hero', 'pictures'],
  ]);
  const studies = newId();
  await run({ type: 'addTimeline', timeline: { id: studies, name: 'Slow studies', rate: rate(24), ...size } });
  await place(studies, [
    ['icicle-drip', 'motion'],
    ['jetty-pan', 'nearest'],
    ['jetty-pan', 'blend'],
    ['jetty-pan', 'motion'],
    ['jetty-pan', 'pictures'],
  ]);
  await slowDrip(await projects.document(id), studies, run);
  const light = newId();
  await run({ type: 'addTimeline', timeline: { id: light, name: 'Layers', rate: rate(25), ...size } });
  await place(light, [
    ['floe-drift', 'nearest'],
    ['dawn-hlg', 'nearest'],
    ['keyed-skiff', 'nearest'],
  ]);
  await skiffOverIce(await projects.document(id), light, run);
  const starts = app.get(StartsService);
  const start = (request: z.input<typeof startJobSchema>) => starts.start(id, startJobSchema.parse(request));
  await start({ kind: 'check', sourceIds: added.map((s) => s.id) });
  const [skiffA, skiffB] = ['skiff-a', 'skiff-b'].map((name) => added.find((s) => s.name === name));
  if (skiffA && skiffB) await start({ kind: 'align', a: skiffA.id, b: skiffB.id });
  await demoRenders(start, await projects.document(id));
  const [pan, copy] = ['jetty-pan', COPY].map((name) => added.find((s) => s.name === name));
  if (pan && copy) await start({ kind: 'compare', a: pan.id, b: copy.id });
}

/** A drop lets go: down to a quarter of the speed, and up again. */
async function slowDrip(document: Project, timelineId: string, run: (command: Command) => Promise<unknown>): Promise<void> {
  const timeline = document.timelines.find((t) => t.id === timelineId);
  const clip = timeline?.clips[0];
  const source = document.sources.find((s) => s.id === clip?.sourceId);
  if (!timeline || !clip || !source) return;
  const pins = slowed(mappingOf(clip, source, timeline, noTiming), source, {
    n: 10,
    speed: 0.25,
    ramp: 8,
    slow: 64,
    known: noTiming,
  });
  await run(commandSchema.parse({ type: 'retimeClip', timelineId, clipId: clip.id, pins, follow: 'move' }));
}

/** The keyed skiff comes over the ice on a lane of its own, smaller than it was shot. */
async function skiffOverIce(document: Project, timelineId: string, run: (command: Command) => Promise<unknown>): Promise<void> {
  const timeline = document.timelines.find((t) => t.id === timelineId);
  const clip = timeline?.clips.find((c) => document.sources.find((s) => s.id === c.sourceId)?.name === 'keyed-skiff');
  if (!timeline || !clip) return;
  const clipIds = [clip.id];
  await run(commandSchema.parse({ type: 'moveClips', timelineId, clipIds, byFrames: 25 - clip.start, byLanes: 1 }));
  const pose = { scaleX: 0.7, scaleY: 0.7, y: 0.08 };
  await run(commandSchema.parse({ type: 'setPose', timelineId, clipIds, pose }));
}

/** Two renders, small: a cut as it is sent, and a single clip without loss. */
async function demoRenders(
  start: (request: z.input<typeof startJobSchema>) => Promise<unknown>,
  document: Project,
): Promise<void> {
  const timeline = (name: string) => document.timelines.find((t) => t.name === name);
  const [teaser, main] = [timeline('Teaser'), timeline('Main cut')];
  const clip = main?.clips.find((c) => document.sources.find((s) => s.id === c.sourceId)?.name === 'floe-drift');
  if (teaser) await start({ kind: 'render', timelineId: teaser.id });
  if (main && clip) {
    const name = 'floe drift, lossless';
    await start({ kind: 'render', timelineId: main.id, clipId: clip.id, name, form: { kind: 'mkv' } });
  }
}

const COPY = 'jetty-pan-copy';

/** The pan as another facility would have converted it to 25, for comparing the two. */
async function convertedCopy(rigFolder: string): Promise<string> {
  const path = join(rigFolder, `${COPY}.mp4`);
  if (existsSync(path)) return path;
  const source = join(rigFolder, 'jetty-pan.mp4');
  await make(
    { media: ffmpeg, progress: () => undefined },
    {
      input: source,
      probe: await ffmpeg.probe(source),
      output: path,
      options: {
        rate: rate(25),
        method: 'nearest',
      },
    },
  );
  return path;
}

/** The project's timelines as sources. */
function nestable(document: Project): Source[] {
  return document.timelines.map((t) => timelineAsSource(document, t));
}
