import { ERROR_SENTENCES, type ErrorCode, type RouteName, routes } from '@thawline/contract';
import axios, { AxiosError, AxiosHeaders, type InternalAxiosRequestConfig } from 'axios';
import { z } from 'zod';

/** A request as a component sent it. */
export interface Asked {
  readonly route: RouteName;
  readonly parameters: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, unknown>>;
  readonly body: unknown;
}

type Answer = (asked: Asked) => unknown;

/** Turns a request down, as the server would. */
export class TurnedDown extends Error {
  constructor(readonly code: ErrorCode) {
    super(ERROR_SENTENCES[code]({}));
  }
}

/**
 * Stands in for the server: each route is answered by a function of the test. What is asked and what is answered has to be of the contract's
 * shape, so that no test passes on a reply that the server would never give; a route without an answer fails.
 */
export class FakeServer {
  readonly asked: Asked[] = [];
  private readonly answers = new Map<RouteName, Answer>();
  /** While it is away nobody answers. */
  away = false;

  constructor() {
    axios.defaults.adapter = (config) => this.answer(config);
  }

  on(route: RouteName, answer: Answer): this {
    this.answers.set(route, answer);
    return this;
  }

  /** Requests of one route, the oldest first. */
  of(route: RouteName): Asked[] {
    return this.asked.filter((a) => a.route === route);
  }

  private async answer(config: InternalAxiosRequestConfig) {
    if (this.away) throw new AxiosError('nobody answers', 'ERR_NETWORK', config);
    const asked = askedOf(config);
    const answer = this.answers.get(asked.route);
    if (!answer) throw new Error(`the test has no answer for ${asked.route}`);
    this.asked.push(asked);
    const done = { config, headers: new AxiosHeaders(), statusText: '' };
    try {
      const data = await answer(asked);
      const { reply } = routes[asked.route];
      if (reply instanceof z.ZodType) reply.parse(data);
      return { ...done, status: 200, data };
    } catch (error) {
      if (!(error instanceof TurnedDown)) throw error;
      const response = { ...done, status: 409, data: { code: error.code, message: error.message, facts: {} } };
      throw new AxiosError('turned down', 'ERR_BAD_REQUEST', config, null, response);
    }
  }
}

function askedOf({ method = 'get', url = '', data, params }: InternalAxiosRequestConfig): Asked {
  const path = url.replace(/^\/api/, '');
  for (const [name, route] of Object.entries(routes)) {
    const names = [...route.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1] as string);
    const found = new RegExp(`^${route.path.replace(/\{\w+\}/g, '([^/]+)')}$`).exec(path);
    if (!found || route.method !== method) continue;
    const body: unknown = typeof data === 'string' ? JSON.parse(data) : (data ?? {});
    if ('body' in route && route.body instanceof z.ZodType) route.body.parse(body);
    const parameters = Object.fromEntries(names.map((n, i) => [n, decodeURIComponent(found[i + 1] ?? '')]));
    return { route: name as RouteName, parameters, query: (params as Record<string, unknown>) ?? {}, body };
  }
  throw new Error(`the contract has no ${method} ${path}`);
}
