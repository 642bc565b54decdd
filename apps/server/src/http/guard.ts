import type { NextFunction, Request, Response } from 'express';
import { errorReply, Failure, STATUS } from './failure.js';

/**
 * Refuses requests that a foreign page could make the browser send: the Host has to be this machine's name (or the one
 * that HOST gives), and so has the Origin where there is one. Stops DNS rebinding and cross-site posts.
 */
export function sameSiteOnly(host: string): (request: Request, response: Response, next: NextFunction) => void {
  const names = new Set(['127.0.0.1', 'localhost', '[::1]', host.includes(':') ? `[${host}]` : host]);
  const known = (name: string): boolean => names.has(name.replace(/:\d+$/, '').toLowerCase());
  return (request, response, next) => {
    const own = request.headers.host ?? '';
    const { origin } = request.headers;
    const refuse = (failure: Failure): void => {
      response.status(STATUS[failure.code]).json(errorReply(failure));
    };
    if (!known(own)) return refuse(new Failure('foreign-host', {}, 'This host name is not served here.'));
    if (origin !== undefined && origin !== `http://${own}`) {
      return refuse(new Failure('foreign-origin', {}, 'Requests from other sites are refused.'));
    }
    next();
  };
}
