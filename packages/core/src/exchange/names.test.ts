import { lastPart } from './names.js';

test.each([
  ['file:///a/floe%20drift.mov', 'floe drift.mov'],
  ['file:///a/floe%20drift.mov?t=4#in', 'floe drift.mov'],
  ['https://desk/ice/reel%233.mxf', 'reel#3.mxf'],
  ['/media/reel #3?.mov', 'reel #3?.mov'],
  ['D:\\ice\\harbour.mov', 'harbour.mov'],
  ['/media/sequence/', 'sequence'],
  ['floe 100%.mov', 'floe 100%.mov'],
  ['', ''],
])('%s is called %s', (address, name) => {
  expect(lastPart(address)).toBe(name);
});
