import { availableParallelism } from 'node:os';
import { Injectable } from '@nestjs/common';
import PQueue from 'p-queue';
import { Failure } from '../http/failure.js';

/** Most requests that may wait; further ones are refused as busy. */
const MOST_WAITING = 500;

/**
 * Single pictures that FFmpeg decodes for the viewer, as many at a time as there are cores. The newest request goes first,
 * since it is the one on the screen.
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
