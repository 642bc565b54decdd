import { createHash, timingSafeEqual } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';
import { errorReply, Failure, STATUS } from './failure.js';

export type Middleware = (request: Request, response: Response, next: NextFunction) => void;

/** Sends a refusal in the same form as all others. */
export function refuse(response: Response, failure: Failure): void {
  response.status(STATUS[failure.code]).json(errorReply(failure));
}

/**
 * Headers of every reply, refusals too: cross-origin isolation (for shared memory), no framing, no foreign scripts, styles, pictures or
 * forms, and nothing told to other sites.
 */
export function securityHeaders(): Middleware {
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        styleSrc: ["'self'", "'unsafe-inline'"],
        fontSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    crossOriginResourcePolicy: { policy: 'same-origin' },
    referrerPolicy: { policy: 'no-referrer' },
    frameguard: { action: 'deny' },
    // Served by plain HTTP on this machine.
    strictTransportSecurity: false,
  }) as Middleware;
}

/**
 * Refuses requests that a foreign page could make the browser send: the Host has to be this machine's name (or the one that HOST gives),
 * so has the Origin where there is one, and where the browser says which site asks, it has to be this one. Stops DNS rebinding and
 * cross-site requests; a link from elsewhere to a page is followed.
 */
export function sameSiteOnly(host: string): Middleware {
  const names = new Set(['127.0.0.1', 'localhost', '[::1]', host.includes(':') ? `[${host}]` : host]);
  const known = (name: string): boolean => names.has(name.replace(/:\d+$/, '').toLowerCase());
  return (request, response, next) => {
    const own = request.headers.host ?? '';
    const { origin } = request.headers;
    if (!known(own)) return refuse(response, new Failure('foreign-host'));
    if (origin !== undefined && origin !== `http://${own}`) return refuse(response, new Failure('foreign-origin'));
    const site = request.headers['sec-fetch-site'];
    const followed =
      request.method === 'GET' && request.headers['sec-fetch-mode'] === 'navigate' && !request.path.startsWith('/api');
    if (site !== undefined && site !== 'same-origin' && site !== 'none' && !followed)
      return refuse(response, new Failure('foreign-origin'));
    next();
  };
}

/** Kinds of body that are taken. A form on a foreign page could send others without asking. */
const BODIES = /^(application\/json|multipart\/form-data|application\/offset\+octet-stream|application\/zip)\b/i;

function bearsBody({ headers }: Request): boolean {
  return headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
}

export const knownBodiesOnly: Middleware = (request, response, next) => {
  const type = request.headers['content-type'];
  if ((bearsBody(request) || type !== undefined) && !BODIES.test(type ?? ''))
    return refuse(response, new Failure('bad-request', {}, 'Send JSON (content-type: application/json), or files.'));
  next();
};

const TOKEN_COOKIE = 'thawline-token';

/**
 * Lets nobody in without the token: as a cookie, as `Authorization: Bearer`, or once behind the question mark of a page, which sets the
 * cookie. For machines that several people use.
 */
export function tokenNeeded(token: string): Middleware {
  const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
  const wanted = digest(token);
  const right = (text: string | undefined): boolean => text !== undefined && timingSafeEqual(digest(text), wanted);
  return (request, response, next) => {
    const typed = typeof request.query.token === 'string' ? request.query.token : undefined;
    if (request.method === 'GET' && !request.path.startsWith('/api') && right(typed)) {
      response.cookie(TOKEN_COOKIE, token, { httpOnly: true, sameSite: 'strict', path: '/' });
      return response.redirect(303, request.path);
    }
    const cookies = (request.headers.cookie ?? '').split(/;\s*/).map((pair) => pair.split('='));
    const cookie = cookies.find(([name]) => name === TOKEN_COOKIE)?.[1];
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    if (right(bearer) || right(cookie === undefined ? undefined : decodeURIComponent(cookie))) return next();
    refuse(response, new Failure('token-needed'));
  };
}

/** Milliseconds without a byte after which a request body is aborted. A body that keeps arriving has no limit. */
export const IDLE_BODY_MS = 120_000;

/** Ends a connection whose request stops coming. Node's own limit is for the whole request: 50 GB take longer than any such limit. */
export function idleLimit(idleMs = IDLE_BODY_MS): Middleware {
  return (request, _response, next) => {
    // An answer may take as long as it likes: a player that is paused reads nothing for minutes.
    if (!bearsBody(request)) return next();
    const { socket } = request;
    const giveUp = (): void => {
      request.destroy(new Error('nothing came for too long'));
    };
    socket.setTimeout(idleMs, giveUp);
    const arrived = (): void => {
      socket.setTimeout(0);
      socket.off('timeout', giveUp);
    };
    request.once('end', arrived);
    request.once('close', arrived);
    next();
  };
}
