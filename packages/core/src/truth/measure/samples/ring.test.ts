import { emptyStep } from './blocks.js';
import { ReferenceRing } from './ring.js';
import { KernelRing } from './ring.wasm.js';

test.each([1, 4, 36, 143, 145])('over %i blocks the kernels give the reference to the last digit', (blocks) => {
  const slots = 7;
  const reference = new ReferenceRing(blocks, slots);
  const kernels = new KernelRing(blocks, slots);
  let state = blocks;
  const next = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state >>> 8) / 2 ** 16 - 100;
  };
  for (let k = 0; k < 20; k++) {
    const step = emptyStep(blocks);
    for (let b = 0; b < blocks; b++) {
      step.energy[b] = Math.abs(next());
      step.detail[b] = Math.abs(next());
      step.u[b] = next();
      step.v[b] = next();
    }
    reference.put(k, step);
    kernels.put(k, step);
    const first = Math.max(0, k - slots + 1);
    for (let count = 1; count <= k - first + 1; count++) {
      for (const at of [first, first + count - 1, first + (count >> 1)])
        expect({ ...kernels.extremes(first, count, at) }).toEqual(reference.extremes(first, count, at));
      expect(kernels.detail(first, count)).toEqual(reference.detail(first, count));
      expect(kernels.motion(first, count, 1)).toEqual(reference.motion(first, count));
    }
  }
});
