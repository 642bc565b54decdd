export type { Alignment, FoundTie, Recording } from './align.js';
export { alignSounds } from './align.js';
export { OUTLINE_RATE, Outliner, type SoundOutline } from './outline.js';
export { type Lag, PhaseCorrelator } from './phase.js';
export type { Relation, Solution, Tie, TieFault } from './solve.js';
export { byWayOf, furthestApart, relationOf, solveTies, spread, tieFault } from './solve.js';
export type { Strike } from './strikes.js';
