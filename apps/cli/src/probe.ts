import { readdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { findSeries, passedOver, type Series } from '@thawline/core/files';
import { pixelWords, remarksOf, remarkWords } from '@thawline/core/picture';
import { formatRate, type Rate } from '@thawline/core/time';
import { ffmpeg, type Probe, saidOf, statIfThere } from '@thawline/media';
import Papa from 'papaparse';
import { probeJson, probeRow } from './json.js';
import { namingFile } from './namingFile.js';
import { withSeries } from './series.js';
import { type Values, WrongCall } from './usage.js';
import { rateOf } from './values.js';

interface Item {
  readonly file: string;
  readonly probe: () => Promise<Probe>;
}

export async function probeCommand(paths: string[], values: Values): Promise<void> {
  if (paths.length === 0) throw new WrongCall('probe wants at least one file or folder.');
  if (values.json && values.csv) throw new WrongCall('Either --json or --csv.');
  const form = values.json ? 'json' : values.csv ? 'csv' : 'words';
  const failed = await probeAll(paths, form, values.rate === undefined ? null : rateOf(values.rate));
  if (failed > 0) process.exitCode = 1;
}

/**
 * Probes files and whatever folders hold, and prints each as soon as it and all before it are done. What a folder holds
 * besides is passed over with a count; what cannot be read is told on standard error.
 * @param sequence the rate that numbered pictures in folders are read at; without one each is a still
 * @returns how many could not be read
 */
async function probeAll(paths: readonly string[], form: 'json' | 'csv' | 'words', sequence: Rate | null): Promise<number> {
  const items: Item[] = [];
  const passed = new Map<string, number>();
  for (const path of paths) {
    if ((await statIfThere(path))?.isDirectory()) await walk(path, sequence, items, passed);
    else items.push({ file: path, probe: () => ffmpeg.probe(path) });
  }
  let failed = 0;
  let header = true;
  for await (const { item, outcome } of inOrder(items)) {
    if (outcome instanceof Error) {
      failed++;
      process.stderr.write(`${outcome.message}\n`);
      continue;
    }
    if (form === 'json') process.stdout.write(`${JSON.stringify(probeJson(item.file, outcome))}\n`);
    else if (form === 'csv') {
      process.stdout.write(`${Papa.unparse([probeRow(item.file, outcome)], { header, escapeFormulae: true })}\r\n`);
      header = false;
    } else process.stdout.write(`${inWords(item.file, outcome)}\n`);
  }
  if (passed.size > 0) {
    const total = [...passed.values()].reduce((sum, n) => sum + n, 0);
    const reasons = [...passed].sort((a, b) => b[1] - a[1]).map(([reason, n]) => `${reason} ${n}`);
    process.stderr.write(`Passed over ${total} ${total === 1 ? 'file' : 'files'}: ${reasons.join(', ')}\n`);
  }
  return failed;
}

async function walk(folder: string, sequence: Rate | null, items: Item[], passed: Map<string, number>): Promise<void> {
  const entries = await readdir(folder, { withFileTypes: true });
  const names = entries
    .filter((e) => e.isFile() || e.isSymbolicLink())
    .map((e) => e.name)
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  const material = names.filter((name) => {
    const reason = passedOver(name);
    if (reason) passed.set(reason, (passed.get(reason) ?? 0) + 1);
    return reason === null;
  });
  const { series, rest } = sequence ? findSeries(material, (n) => n) : { series: [], rest: material };
  for (const name of rest) items.push({ file: join(folder, name), probe: () => ffmpeg.probe(join(folder, name)) });
  for (const s of series)
    items.push({ file: join(folder, s.files[0] as string), probe: () => probeSeries(folder, s, sequence as Rate) });
  for (const entry of entries)
    if (entry.isDirectory() && !entry.name.startsWith('.')) await walk(join(folder, entry.name), sequence, items, passed);
}

const probeSeries = (folder: string, series: Series<string>, rate: Rate): Promise<Probe> =>
  withSeries(folder, series, (pattern) => ffmpeg.probeSeries(pattern, { pictures: series.files.length, rate }));

/** Runs as many at once as there are cores, gives them in their order. */
async function* inOrder(items: readonly Item[]): AsyncGenerator<{ item: Item; outcome: Probe | Error }> {
  const running: { item: Item; outcome: Promise<Probe | Error> }[] = [];
  let next = 0;
  while (next < items.length || running.length > 0) {
    while (next < items.length && running.length < availableParallelism()) {
      const item = items[next++] as Item;
      running.push({ item, outcome: namingFile(item.file, item.probe()).catch((error: Error) => error) });
    }
    const first = running.shift();
    if (first) yield { item: first.item, outcome: await first.outcome };
  }
}

function inWords(file: string, probe: Probe): string {
  const pictures = `${probe.pictures} ${probe.pictures === 1 ? 'picture' : 'pictures'}`;
  const looks = probe.kind === 'sound' ? '' : `; ${pixelWords(probe.pixelFormat)}`;
  const remarks =
    probe.kind === 'sound'
      ? ''
      : remarksOf(saidOf(probe))
          .map((remark) => ` ${remarkWords(remark)}`)
          .join('');
  const others = probe.sound?.others ?? 0;
  const tracks = others > 0 ? ` It has ${others + 1} tracks of sound; the first alone is heard.` : '';
  const said = `${looks}${remarks + tracks === '' ? '' : `.${remarks}${tracks}`}`;
  if (!probe.measured || !probe.stored)
    return `${file}: ${probe.kind === 'still' ? 'a still' : `a sequence of ${pictures}`}, no rate of its own${said}`;
  const variable = probe.variable ? ', variable timing' : '';
  return `${file}: ${pictures}, stored ${formatRate(probe.stored)}, measured ${formatRate(probe.measured.rate)}${variable}${said}`;
}
