import { type ArgumentsHost, Catch, type ExceptionFilter, HttpException, Logger } from '@nestjs/common';
import type { ErrorCode, ErrorReply } from '@thawline/contract';
import { MediaError } from '@thawline/media';
import type { Facts } from '@thawline/project';
import type { Response } from 'express';

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
  'timeline-in-use': 409,
  'within-itself': 409,
  'not-a-timeline': 422,
  frozen: 409,
  'lane-in-use': 409,
  'nothing-there': 409,
  'no-gaps': 409,
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
  internal: 500,
};

const SENTENCES: Partial<Record<ErrorCode, (facts: Facts) => string>> = {
  'source-in-use': (f) => `${f.source} is used in ${list(f.timelines)}. Take it off there first, or remove it with its uses.`,
  'no-rate': (f) =>
    f.kind === 'still'
      ? `${f.source} is a still: it has no rate.`
      : f.kind === 'sound'
        ? `${f.source} is sound alone: it has no pictures and no rate.`
        : `${f.source} is numbered pictures: they need a rate to be read at.`,
  'no-desk': () => 'No intake desk is known here. Start one (npm run desk) and name it: THAWLINE_DESK=http://127.0.0.1:4750',
  'unknown-revision': () => 'There is no such step in the history.',
  'outside-folders': () => 'That lies outside the media folders. Only what THAWLINE_MEDIA names can be used in place.',
  'unknown-folder': (f) => `${f.path} is not there.`,
  'file-unchanged': (f) => `${f.file} is as it was: there is nothing to take over.`,
  'timeline-has-clips': (f) => `${f.timeline} has clips: another rate would re-time them. Carry the edit to that rate instead.`,
  'no-drop-frame': () => 'Drop-frame timecode exists at 29.97 and 59.94 only.',
  'timeline-in-use': (f) => `${f.timeline} is placed in ${list(f.timelines)}. Take it off there, or unpack it, first.`,
  'within-itself': (f) => `${f.timeline} cannot stand in itself.`,
  'not-a-timeline': () => 'This clip is made of a file: there is nothing to unpack.',
  frozen: (f) => `${f.clip} is frozen: give it another fit before unpacking it.`,
  'lane-in-use': (f) => `${f.lane} has clips. Move them first.`,
  'nothing-there': (f) => `No clip lies across frame ${f.frame}.`,
  'no-gaps': () => 'There are no gaps to close.',
  'bad-curve': (f) => CURVES[String(f.fault)]?.(f) ?? 'These pins make no curve.',
  'bad-speed': (f) =>
    `${f.clip} is read at another rate already: together with that this speed is slower, or faster, than a clip can run.`,
  'too-long': (f) => `${f.clip} would run for ${f.frames} frames: ${f.most} are the most a clip can have.`,
  'no-time': (f) => `${f.clip} is a still: it has no time to change.`,
  'no-pictures': (f) => `${f.clip} is sound alone: it goes on a sound lane.`,
  'tie-twice': (f) => `Two ties of ${f.a} and ${f.b} stand on one moment. Move one of them, or take it away.`,
  'ties-cross': (f) => `Ties of ${f.a} and ${f.b} cross: what comes later in one would come earlier in the other.`,
  'tie-outside': (f) => `${f.source} runs for ${Number(f.seconds).toFixed(3)} s: a tie lies after its end.`,
  'no-ties': (f) => `${f.a} and ${f.b} have no ties yet: find them by sound, or tie a moment by hand.`,
  'uneven-anchor': (f) =>
    `${f.clip} is frozen there, follows a time curve, or shows each picture once. Aligning needs it to run at one speed of its own.`,
  'no-sound': (f) => `${f.source} has no sound.`,
  'one-clip': () => 'Choose at least two clips to link.',
  overlap: (f) => `On ${f.lane} the clips would lie over each other for ${f.frames} frames.`,
  'before-start': () => 'That is before frame 0.',
  'past-source': (f) => `${f.clip} has no pictures there.`,
  'no-lane-there': () => 'There is no lane there.',
  'timeline-empty': (f) => `${f.timeline} has no clips yet: there is nothing to render.`,
  'nothing-to-undo': () => 'There is nothing to undo.',
  'nothing-to-redo': () => 'There is nothing to redo.',
  'bad-size': (f) => `${f.width}x${f.height} is not a frame size: both have to be even, from 16 to 8192.`,
  'disk-full': () => 'The disk is full. Nothing was kept of this.',
  'not-checked': () => 'This source has not been checked yet.',
  'same-source': () => 'Choose two different sources to compare.',
  'not-finished': () => 'This job has not finished.',
  internal: () => 'Something went wrong in the server. Nothing was changed.',
};

/** By what is wrong with the pins. */
const CURVES: Record<string, (facts: Facts) => string> = {
  'two-on-a-frame': () => 'Two pins stand on one frame. Each needs a frame of its own, in rising order.',
  'past-source': (f) => `${f.clip} has ${f.pictures} pictures, 0 to ${Number(f.pictures) - 1}. A pin names another.`,
  'bad-handles': () => 'A handle lies outside its stretch: the clip would run backward. Ask for that, or pull it in.',
};

function list(names: Facts[string] | undefined): string {
  return Array.isArray(names) ? names.join(', ') : String(names ?? '');
}

/** A request is turned down. */
export class Failure extends Error {
  constructor(
    readonly code: ErrorCode,
    readonly facts: Facts = {},
    message?: string,
  ) {
    super(message ?? SENTENCES[code]?.(facts) ?? `${code.replace(/-/g, ' ')}.`);
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
    if (error instanceof HttpException) {
      const status = error.getStatus();
      if (status === 404) return new Failure('unknown-route', {}, 'There is nothing at this address.');
      if (status < 500) return new Failure('bad-request', {}, error.message);
    }
    if (typeof error === 'object' && error !== null && 'status' in error && Number(error.status) < 500) {
      return new Failure('bad-request', {}, error instanceof Error ? error.message : 'bad request');
    }
    // Whoever asked has gone: nobody is waiting for an answer, and nothing is wrong.
    if (error instanceof MediaError && error.code === 'aborted') return new Failure('internal');
    this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    return new Failure('internal');
  }
}
