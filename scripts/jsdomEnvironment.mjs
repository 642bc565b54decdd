import { TestEnvironment } from 'jest-environment-jsdom';

/** A request that keeps the signal it was given: jsdom's signals are none of Node's. */
class RequestOfJsdom extends Request {
  #signal;

  constructor(input, { signal, ...init } = {}) {
    super(input, init);
    this.#signal = signal;
  }

  get signal() {
    return this.#signal ?? super.signal;
  }
}

/** jsdom with what browsers have and it leaves out; Node has the same. */
export default class extends TestEnvironment {
  constructor(...args) {
    super(...args);
    const { Headers, Response, TextDecoder, TextEncoder, fetch, structuredClone } = globalThis;
    Object.assign(this.global, { Headers, Request: RequestOfJsdom, Response, TextDecoder, TextEncoder, fetch, structuredClone });
  }
}
