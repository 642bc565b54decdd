import { address, errorSchema, type RouteName, routes } from '@thawline/contract';
import axios, { AxiosError, type AxiosProgressEvent } from 'axios';
import type { z } from 'zod';

/** The server turned a request down, or could not be reached. `message` is for people. */
export class RequestError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

type Routes = typeof routes;
type JsonRoute = { [N in RouteName]: Routes[N]['reply'] extends z.ZodType ? N : never }[RouteName];
type Reply<N extends JsonRoute> = Routes[N]['reply'] extends z.ZodType ? z.output<Routes[N]['reply']> : never;

interface CallOptions {
  readonly parameters?: Readonly<Record<string, string | number>>;
  /** What stands behind the question mark; left out where undefined. */
  readonly query?: Readonly<Record<string, string | undefined>>;
  readonly body?: unknown;
  readonly onUploadProgress?: (event: AxiosProgressEvent) => void;
  readonly signal?: AbortSignal;
}

/** Asks the server. Replies are the contract's; the server is ours and of the same build, so they are not checked again. */
export async function call<N extends JsonRoute>(name: N, options: CallOptions = {}): Promise<Reply<N>> {
  const { parameters, query, body, onUploadProgress, signal } = options;
  try {
    const request = { method: routes[name].method, url: address(name, parameters), params: query, data: body };
    const reply = await axios.request<Reply<N>>({
      ...request,
      ...(onUploadProgress ? { onUploadProgress } : {}),
      ...(signal ? { signal } : {}),
    });
    return reply.data;
  } catch (error) {
    throw asRequestError(error);
  }
}

function asRequestError(error: unknown): RequestError {
  if (error instanceof AxiosError && error.response) {
    const parsed = errorSchema.safeParse(error.response.data);
    if (parsed.success) return new RequestError(parsed.data.code, parsed.data.message);
  }
  if (axios.isCancel(error)) return new RequestError('stopped', 'Stopped.');
  return new RequestError('unreachable', 'The server does not answer. Is it still running? Nothing here was changed.');
}
