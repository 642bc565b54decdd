export type { Series } from './names.js';
export { endingOf, findSeries, kindOfName, passedOver } from './names.js';
