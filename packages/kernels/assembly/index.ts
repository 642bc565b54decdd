/** All that the one WASM file exports. Pointers are byte offsets into the memory it is given; src/heap.ts hands them out. */
export { mixSums, shrink4, stepSums, widen } from './change';
export { extremes, means } from './window';

/** First byte that is free for the caller. */
export function heapBase(): usize {
  return __heap_base;
}
