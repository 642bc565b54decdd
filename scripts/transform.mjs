/**
 * How tests are compiled: by swc, and what inner loops ask of the global object is taken once a module. In a test's sandbox each such
 * question costs many times what the work itself does; outside of tests it costs nothing. On the first line, so that all others stay
 * where they were.
 */
import swc from '@swc/jest';

const TAKEN =
  'const { Array, BigInt, DataView, Float32Array, Float64Array, Int16Array, Int32Array, Map, Math, Number, Object, Set, Uint16Array, Uint32Array, Uint8Array } = globalThis;';

export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options);
    const take = (result) => ({ ...result, code: TAKEN + result.code });
    return {
      ...inner,
      process: (...args) => take(inner.process(...args)),
      processAsync: async (...args) => take(await inner.processAsync(...args)),
      getCacheKey: (...args) => `${inner.getCacheKey(...args)}-${TAKEN.length}`,
    };
  },
};
