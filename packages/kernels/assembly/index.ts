/** All that the one WASM file exports. Pointers are byte offsets into the memory it is given; src/heap.ts hands them out. */
export { mixSums, shrink4, stepSums, widen } from './change';
export { alongEdges } from './fields/edges';
export { makeLines } from './fields/lines';
export { searchFields } from './fields/search';
export { halveSoft, softField } from './fields/soft';
export { fieldSources } from './fields/sources';
export { blockProducts, shrink2 } from './halves';
export { fillMarked, settleMarks, unconfirmed } from './motion/confirm';
export { chooseVectors, fill32, likeness, padField, smoothVectors } from './motion/field';
export { carryVectors, markHoles, weigh } from './motion/moment';
export { halve, narrow, padEdges8, padEdges16, place } from './motion/plane';
export { searchPatches } from './motion/search';
export { makeFours, makePairs, makePlane } from './motion/warp';
export { searchTiles, squaresApart, takeSurroundings } from './tiles';
export { extremes, means } from './window';

/** First byte that is free for the caller. */
export function heapBase(): usize {
  return __heap_base;
}
