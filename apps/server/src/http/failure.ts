import { type ArgumentsHost, Catch, type ExceptionFilter, HttpException, Logger } from '@nestjs/common';
import { ERROR_SENTENCES, type ErrorCode, type ErrorReply } from '@thawline/contract';
import { MediaError } from '@thawline/media';
import type { Facts } from '@thawline/project';
import type { Response } from 'express';
import { DamagedProjectError } from '../database/stored.js';
import { asStoreError } from '../database/storeError.js';

/** The status of every code. A new code does not compile without one. */
export const STATUS: Record<ErrorCode, number> = {
  'unknown-source': 404,
  'unknown-timeline': 404,
  'unknown-clip': 404,
  'unknown-lane': 404,
  'unknown-project': 404,
  'unknown-media': 404,
  'unknown-job': 404,
  'unknown-route': 404,
  'unknown-picture': 404,
  'unknown-backup': 404,
  'unknown-upload': 404,
  'source-in-use': 409,
  'timeline-has-clips': 409,
  overlap: 409,
  'id-taken': 409,
  'nothing-to-undo': 409,
  'nothing-to-redo': 409,
  'timeline-empty': 409,
  'not-checked': 404,
  'same-source': 422,
  'not-finished': 409,
  'before-start': 422,
  'past-source': 422,
  'no-lane-there': 422,
  'bad-size': 422,
  'bad-request': 400,
  'bad-name': 400,
  'no-file': 400,
  'foreign-host': 403,
  'foreign-origin': 403,
  'token-needed': 401,
  'step-touched': 409,
  'project-damaged': 409,
  'not-a-project': 422,
  busy: 503,
  'no-rate': 422,
  'unknown-revision': 404,
  'unknown-folder': 404,
  'outside-folders': 403,
  'already-here': 409,
  'rate-needed': 422,
  'file-missing': 409,
  'file-changed': 409,
  'file-unchanged': 409,
  'another-file': 422,
  'not-found-again': 404,
  'not-an-edit': 422,
  'no-drop-frame': 422,
  'no-fields': 422,
  'frames-unheld': 422,
  'fields-too-quick': 422,
  'fields-end': 422,
  'held-left-out': 409,
  'timeline-in-use': 409,
  'within-itself': 409,
  'not-a-timeline': 422,
  frozen: 409,
  'laid-by-hand': 409,
  'nothing-left': 422,
  'sound-alone': 422,
  'lane-in-use': 409,
  'nothing-there': 409,
  'no-gaps': 409,
  'nothing-before': 409,
  'one-clip': 422,
  'bad-curve': 422,
  'no-time': 422,
  'bad-speed': 422,
  'no-pictures': 422,
  'too-long': 422,
  'tie-twice': 422,
  'ties-cross': 422,
  'tie-outside': 422,
  'no-ties': 409,
  'uneven-anchor': 409,
  'no-sound': 422,
  'no-folder': 409,
  'no-desk': 409,
  'unknown-preset': 404,
  'disk-full': 507,
  'not-stored': 507,
  internal: 500,
};

/** A request is turned down. */
export class Failure extends Error {
  constructor(
    readonly code: ErrorCode,
    readonly facts: Facts = {},
    message?: string,
  ) {
    super(message ?? ERROR_SENTENCES[code](facts));
  }
}

export function errorReply(failure: Failure): ErrorReply {
  return { code: failure.code, message: failure.message, facts: failure.facts as ErrorReply['facts'] };
}

/** Turns everything thrown into the one error shape. */
@Catch()
export class FailureFilter implements ExceptionFilter {
  private readonly logger = new Logger('request');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const failure = this.asFailure(error);
    if (response.headersSent) response.end();
    else response.status(STATUS[failure.code]).json(errorReply(failure));
  }

  private asFailure(error: unknown): Failure {
    if (error instanceof Failure) return error;
    const store = asStoreError(error);
    if (store) {
      this.logger.error(`not stored: ${store.reason}`);
      return new Failure(store.code, { reason: store.reason });
    }
    if (error instanceof DamagedProjectError) return new Failure('project-damaged', { name: error.projectName });
    if (error instanceof HttpException) {
      const status = error.getStatus();
      if (status === 404) return new Failure('unknown-route', {}, 'There is nothing at this address.');
      if (status < 500) return new Failure('bad-request', {}, error.message);
    }
    if (typeof error === 'object' && error !== null && 'status' in error && Number(error.status) < 500) {
      return new Failure('bad-request', {}, error instanceof Error ? error.message : 'bad request');
    }
    // The client has disconnected: there is no one to reply to, and nothing to log.
    if (error instanceof MediaError && error.code === 'aborted') return new Failure('internal');
    this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    return new Failure('internal');
  }
}
