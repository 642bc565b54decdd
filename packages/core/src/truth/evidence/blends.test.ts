import { normal, random } from '@thawline/rig';
import { Changes } from '../measure/changes.js';
import { findMixings } from './blends.js';

/** Changes of pictures of which every second one is softer, and more of a mix of its neighbours, by so much (logarithms). */
function everySecond(swing: number): Changes {
  const changes = new Changes();
  const next = random(3);
  for (let k = 1; k < 120; k++) {
    const at = changes.add();
    const side = k % 2 === 0 ? 0.5 : -0.5;
    changes.columns.soft[at] = 0.2 * side + 0.03 * normal(next);
    changes.columns.mixLeft[at] = Math.exp(Math.log(0.2) + swing * side + 0.05 * normal(next));
  }
  return changes;
}

test('what an encoder does to every second picture is no mix, whatever pair of shares would fit it', () => {
  for (const swing of [0.2, 0.5, 0.8, 1]) expect(findMixings(everySecond(swing), 0, 119, 50)).toEqual([]);
});

test('half the rate mixed into every second picture is: there little is left over', () => {
  const [found, ...more] = findMixings(everySecond(2.6), 0, 119, 50);
  expect(found).toMatchObject({ from: 0, to: 119, sourceRate: 25 });
  expect(found?.blends.every((b) => b.share === 0.5)).toBe(true);
  expect(found?.blends).toHaveLength(60);
  expect(more).toEqual([]);
});
