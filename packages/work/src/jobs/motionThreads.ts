import { availableParallelism } from 'node:os';
import type { RenderInput } from '../compose/input.js';

/** Pictures made by motion come from threads of their own, as many as there are cores. */
export function withMotionThreads<Request extends { readonly input: RenderInput }>(request: Request): Request {
  const threads = { count: availableParallelism(), entry: new URL(import.meta.resolve('@thawline/work/motion/worker')) };
  return { ...request, input: { ...request.input, threads } };
}
