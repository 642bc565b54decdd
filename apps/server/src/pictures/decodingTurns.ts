import { availableParallelism } from 'node:os';
import { Injectable } from '@nestjs/common';
import PQueue from 'p-queue';
import { Failure } from '../http/failure.js';

/** So many wait at most: whoever asks for more has long stopped looking at the first. */
const MOST_WAITING = 500;

/**
 * Single pictures that FFmpeg decodes for somebody who looks: one a core at a time, however many are asked for. The newest goes first,
 * since that is what is looked at.
 */
@Injectable()
export class DecodingTurns {
  private readonly queue = new PQueue({ concurrency: Math.max(2, availableParallelism()) });
  private asked = 0;

  take<T>(work: () => Promise<T>): Promise<T> {
    if (this.queue.size >= MOST_WAITING) throw new Failure('busy');
    this.asked++;
    return this.queue.add(work, { priority: this.asked }) as Promise<T>;
  }
}
