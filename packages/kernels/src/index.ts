export { Heap, type Kernels } from './heap.js';
