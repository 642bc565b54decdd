import { Inject, Injectable } from '@nestjs/common';
import { ffmpeg } from '@thawline/media';
import { filesOf } from '@thawline/project';
import { type FrameRange, mixedSound, SOUND_CHANNELS, SOUND_RATE, type SourceFile } from '@thawline/work';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import { MediaService } from '../sources/media.service.js';

/** A stretch of sound that is asked for at once is no longer than this. */
const MOST_SECONDS = 60;

/** What a timeline sounds like, for the player. */
@Injectable()
export class TimelinesService {
  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(MediaService) private readonly media: MediaService,
  ) {}

  /** The mix of a range as WAV: 48 kHz, stereo, 16 bit. */
  async sound(projectId: string, timelineId: string, range: FrameRange, signal: AbortSignal): Promise<Uint8Array> {
    const document = await this.projects.document(projectId);
    const timeline = document.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
    const seconds = ((range.to - range.from) * timeline.rate.den) / timeline.rate.num;
    if (!(seconds > 0) || seconds > MOST_SECONDS)
      throw new Failure('bad-request', {}, `A stretch of sound runs for more than nothing and at most ${MOST_SECONDS} s.`);
    const files: Record<string, SourceFile> = {};
    for (const source of filesOf(document, timeline, range)) {
      // What is not there is silent here; a render says so.
      const file = source.sound && !source.lost && (await this.media.open(source.mediaId).catch(() => null));
      if (file) files[source.mediaId] = file;
    }
    const there = { ...document, sources: document.sources.filter((s) => files[s.mediaId]) };
    const blocks: Float32Array[] = [];
    const input = { project: there, timeline: heard(timeline, there), files, range };
    for await (const block of mixedSound(ffmpeg, input, signal)) blocks.push(block.slice());
    return wav(blocks);
  }
}

/** Without the clips whose source is not there. */
function heard<T extends { clips: { sourceId: string }[] }>(
  timeline: T,
  project: { sources: { id: string }[]; timelines: { id: string }[] },
): T {
  const ids = new Set([...project.sources, ...project.timelines].map((s) => s.id));
  return { ...timeline, clips: timeline.clips.filter((c) => ids.has(c.sourceId)) };
}

/** RIFF WAVE, 16-bit PCM (Microsoft, "Multimedia Programming Interface", 1991). */
function wav(blocks: readonly Float32Array[]): Uint8Array {
  const count = blocks.reduce((sum, b) => sum + b.length, 0);
  const bytes = Buffer.alloc(44 + count * 2);
  bytes.write('RIFF', 0, 'latin1');
  bytes.writeUInt32LE(36 + count * 2, 4);
  bytes.write('WAVEfmt ', 8, 'latin1');
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(SOUND_CHANNELS, 22);
  bytes.writeUInt32LE(SOUND_RATE, 24);
  bytes.writeUInt32LE(SOUND_RATE * SOUND_CHANNELS * 2, 28);
  bytes.writeUInt16LE(SOUND_CHANNELS * 2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36, 'latin1');
  bytes.writeUInt32LE(count * 2, 40);
  let at = 44;
  for (const block of blocks)
    for (const sample of block) {
      bytes.writeInt16LE(Math.max(-32768, Math.min(32767, Math.round(sample * 32768))), at);
      at += 2;
    }
  return bytes;
}
