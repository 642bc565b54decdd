import { stat } from 'node:fs/promises';
import { Inject, Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import type { LoudnessReply } from '@thawline/contract';
import { WAVE_CHUNK } from '@thawline/core/sound';
import type { Media } from '@thawline/media';
import { filesOf, type Project, type Timeline, timelineLength } from '@thawline/project';
import {
  type FrameRange,
  fileStem,
  type RenderInput,
  readLoudness,
  readWave,
  type SourceFile,
  type WavStream,
  waveFile,
  wavOf,
} from '@thawline/work';
import { asStoreError } from '../database/storeError.js';
import { Failure } from '../http/failure.js';
import { JobsService } from '../jobs/jobs.service.js';
import { StartsService } from '../jobs/starts.service.js';
import { MEDIA } from '../ports.js';
import { ProjectsService } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';

/** What sources and timelines sound like. */
@Injectable()
export class SoundService implements OnApplicationBootstrap {
  private readonly logger = new Logger('sound');

  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(StartsService) private readonly starts: StartsService,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(MEDIA) private readonly port: Media,
  ) {}

  /** Sources of before waveforms were made get theirs, and those whose files went astray. What failed is left to be asked for. */
  async onApplicationBootstrap(): Promise<void> {
    try {
      await this.startMissing();
    } catch (error) {
      // On a full disk the server starts without the missing waveforms.
      if (!asStoreError(error)) throw error;
      this.logger.warn(`waveforms are not made now: ${String(error)}`);
    }
  }

  private async startMissing(): Promise<void> {
    for (const { id, deletedAt, damaged } of await this.projects.list()) {
      if (deletedAt !== null || damaged) continue;
      const { sources } = await this.projects.document(id);
      const open = (await this.jobs.list(id)).filter((j) => j.kind === 'sound' && j.state !== 'done').map((j) => j.subject);
      for (const source of sources) {
        if (!source.sound || source.lost || open.includes(source.mediaId)) continue;
        const there = await stat(waveFile(places.media(this.settings, source.mediaId))).catch(notMade);
        if (!there) await this.starts.start(id, { kind: 'sound', sourceId: source.id });
      }
    }
  }

  /** Bins of a source's waveform (see the contract); null while it is not made. */
  async wave(mediaId: string, level: number, chunk: number): Promise<Uint8Array | null> {
    await this.media.media(mediaId);
    return readWave(places.media(this.settings, mediaId), level, chunk * WAVE_CHUNK, WAVE_CHUNK).catch(notMade);
  }

  /** Of a stretch counted from the first picture; null while it is not measured. */
  async loudness(mediaId: string, { from, to }: { from: number; to: number }): Promise<LoudnessReply | null> {
    const { probe } = await this.media.media(mediaId);
    const start = probe.sound?.startSeconds ?? 0;
    return readLoudness(places.media(this.settings, mediaId), from - start, to - start).catch(notMade);
  }

  /**
   * The mix of a range as WAV: 48 kHz, stereo, 16 bit; of what lies after the timeline's end nothing. It is made as it is read: who plays
   * it reads on in one and the same mix, and hears no seams.
   */
  async stretch(projectId: string, timelineId: string, range: FrameRange, signal: AbortSignal): Promise<WavStream> {
    const { project, timeline } = await this.find(projectId, timelineId);
    const to = Math.min(range.to, timelineLength(timeline));
    if (to <= range.from)
      throw new Failure('bad-request', {}, 'A stretch of sound lies on its timeline and lasts a frame at least.');
    return wavOf({ media: this.port, signal }, await this.heard(project, timeline, { from: range.from, to }), 's16');
  }

  /** A timeline's sound, or its in to out, as a file to keep. Unlike what is played, it is refused where a source is missing. */
  async whole(
    projectId: string,
    timelineId: string,
    form: 's24' | 'f32',
    signal: AbortSignal,
  ): Promise<WavStream & { readonly name: string }> {
    const { project, timeline } = await this.find(projectId, timelineId);
    const range = timeline.range ?? { from: 0, to: timelineLength(timeline) };
    if (range.to <= range.from) throw new Failure('timeline-empty', { timeline: timeline.name });
    const lost = filesOf(project, timeline, range).find((s) => s.lost);
    if (lost) throw new Failure('file-missing', {}, `${lost.name} was not found yet.`);
    const files: Record<string, SourceFile> = {};
    for (const source of filesOf(project, timeline, range))
      if (source.sound) files[source.mediaId] = await this.media.open(source.mediaId);
    const { bytes, parts } = wavOf({ media: this.port, signal }, { project, timeline, files, range }, form);
    return { name: `${fileStem(timeline.name)}.wav`, bytes, parts };
  }

  private async find(projectId: string, timelineId: string): Promise<{ project: Project; timeline: Timeline }> {
    const project = await this.projects.document(projectId);
    const timeline = project.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
    return { project, timeline };
  }

  /** What is not there is silent here; a render says so. */
  private async heard(project: Project, timeline: Timeline, range: FrameRange): Promise<RenderInput> {
    const files: Record<string, SourceFile> = {};
    for (const source of filesOf(project, timeline, range)) {
      const file = source.sound && !source.lost && (await this.media.open(source.mediaId).catch(() => null));
      if (file) files[source.mediaId] = file;
    }
    const there = { ...project, sources: project.sources.filter((s) => files[s.mediaId]) };
    const ids = new Set([...there.sources, ...there.timelines].map((s) => s.id));
    const known = { ...timeline, clips: timeline.clips.filter((c) => ids.has(c.sourceId)) };
    return { project: there, timeline: known, files, range };
  }
}

function notMade(error: NodeJS.ErrnoException): null {
  if (error.code === 'ENOENT') return null;
  throw error;
}
