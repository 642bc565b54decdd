import { mkdtemp, readdir, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { findSeries, type Series } from '@thawline/core/files';
import { seriesName, seriesPattern } from '@thawline/media';

/** Lends numbered pictures under names that FFmpeg counts by: links in a temporary folder number them from 0, whatever their own numbers are. */
export async function withSeries<T>(folder: string, series: Series<string>, use: (pattern: string) => Promise<T>): Promise<T> {
  const own = await mkdtemp(join(tmpdir(), 'thawline-series-'));
  try {
    for (const [k, name] of series.files.entries()) await symlink(resolve(folder, name), join(own, seriesName(k, series.ending)));
    return await use(seriesPattern(own, series.ending));
  } finally {
    await rm(own, { recursive: true, force: true });
  }
}

/** The one series of numbered pictures in a folder. Throws where there is none, or several. */
export async function seriesIn(folder: string): Promise<Series<string>> {
  const names = (await readdir(folder)).sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  const { series } = findSeries(names, (name) => name);
  const [only, ...others] = series;
  if (!only) throw new Error(`${folder} holds no numbered pictures.`);
  if (others.length > 0)
    throw new Error(`${folder} holds ${series.length} series of numbered pictures: give each a folder of its own.`);
  return only;
}
