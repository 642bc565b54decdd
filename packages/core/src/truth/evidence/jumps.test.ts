import { Changes } from '../measure/changes.js';
import { median } from '../measure/median.js';
import { findJumps } from './jumps.js';

/** Changes of pictures that move by so much each, in samples of the coarse picture; energy grows with the square of it. */
function moving(moves: readonly number[], energies?: readonly number[]): Changes {
  const changes = new Changes();
  const usual = median(moves.length > 0 ? moves : [1]);
  for (const [i, move] of moves.entries()) {
    const k = changes.add();
    changes.columns.displacement[k] = move;
    changes.columns.coherence[k] = move / usual;
    changes.columns.coarseCoherence[k] = move / usual;
    changes.columns.energy[k] = energies?.[i] ?? 40 * move * move;
  }
  return changes;
}

const none = (length: number): Uint8Array => new Uint8Array(length);
const even = (length: number, move = 0.6): number[] => Array.from({ length }, () => move);
const withJumps = (length: number, ...at: readonly number[]): number[] => {
  const moves = even(length);
  for (const k of at) moves[k - 1] = 1.2;
  return moves;
};

test('one step twice as large among even ones is a jump, at the picture it leads to', () => {
  expect(findJumps(moving(withJumps(40, 20)), none(39), null)).toEqual([20]);
  expect(findJumps(moving(even(40)), none(40), null)).toEqual([]);
});

test('a picture that comes late has moved further without any missing', () => {
  const gaps = new Float64Array(40).fill(1);
  gaps[19] = 2;
  expect(findJumps(moving(withJumps(40, 20)), none(40), gaps)).toEqual([]);
});

test('a step that makes up for a short one before it leaves nothing out', () => {
  const moves = withJumps(40, 20);
  moves[18] = 0.1;
  expect(findJumps(moving(moves), none(40), null)).toEqual([]);
});

test('where motion is uneven a larger step says nothing', () => {
  const moves = even(40).map((move, i) => move * (i % 3 === 0 ? 1.7 : 1));
  moves[19] = 1.4;
  expect(findJumps(moving(moves), none(40), null)).toEqual([]);
});

test('a scene cut changes everything at once and is no jump; nor is a hold, which takes no part', () => {
  const energies = even(40).map((move) => 40 * move * move);
  energies[19] = 4000;
  expect(findJumps(moving(withJumps(40, 20), energies), none(40), null)).toEqual([]);
  const moves = withJumps(40, 20);
  moves[18] = 0;
  const held = none(40);
  held[18] = 1;
  expect(findJumps(moving(moves), held, null)).toEqual([20]);
  held[19] = 1;
  expect(findJumps(moving(moves), held, null)).toEqual([]);
});

test('pictures dropped at one beat do not hide each other: 29.97 in 25 leaves out every sixth', () => {
  const at = Array.from({ length: 9 }, (_, i) => 6 + 5 * i);
  expect(findJumps(moving(withJumps(60, ...at)), none(60), null)).toEqual(at);
});

test('too near to an end there is too little around a step to say', () => {
  expect(findJumps(moving(withJumps(40, 2)), none(40), null)).toEqual([]);
  expect(findJumps(moving(even(3)), none(3), null)).toEqual([]);
  expect(findJumps(new Changes(), none(0), null)).toEqual([]);
});

test('a part that starts moving while all else goes on as ever is no jump', () => {
  const changes = moving(withJumps(40, 20).map((move) => move / 2));
  expect(findJumps(changes, none(39), null)).toEqual([20]);
  changes.columns.coherence[19] = 0.55;
  changes.columns.coarseCoherence[19] = 0.55;
  expect(findJumps(changes, none(39), null)).toEqual([]);
});

test('a step half as large again is no picture missing', () => {
  const moves = even(40);
  moves[19] = 0.9;
  expect(findJumps(moving(moves), none(40), null)).toEqual([]);
  moves[19] = 1.05;
  expect(findJumps(moving(moves), none(40), null)).toEqual([20]);
});

describe('where hardly anything is known of how far things move', () => {
  /** Steps of 0.09 samples, each of them as large a share of the motion around it as is given. */
  const shares = (here: number, { along = here, energy = here * here, motion = 0.18 } = {}): Changes => {
    const changes = moving(even(40, 0.09));
    changes.columns.coarseAlong.fill(1);
    changes.columns.displacement[19] = motion;
    changes.columns.coarseCoherence[19] = here;
    changes.columns.coarseAlong[19] = along;
    changes.columns.energy[19] = energy * (changes.columns.energy[18] as number);
    return changes;
  };

  test('a step of twice the share by every measure leaves a picture out', () => {
    expect(findJumps(shares(2), none(40), null)).toEqual([20]);
    expect(findJumps(shares(1), none(40), null)).toEqual([]);
  });

  test.each([
    ['one measure does not see it', shares(2, { along: 1.2 })],
    ['nothing changes more than ever', shares(2, { energy: 1.1 })],
    ['all of it changes', shares(2, { energy: 30 })],
    ['it is more than pictures left out can be', shares(9)],
    ['so little moves that a coder does as much', shares(2, { motion: 0.1 })],
  ])('but not where %s', (_, changes) => {
    expect(findJumps(changes, none(40), null)).toEqual([]);
  });

  test('nor where it is one of several, or beside a hold', () => {
    const others = shares(2);
    others.columns.coarseCoherence[23] = 1.9;
    expect(findJumps(others, none(40), null)).toEqual([]);
    const held = none(40);
    held[18] = 1;
    expect(findJumps(shares(2), held, null)).toEqual([]);
  });
});

test('what the motion of parts foresees as missing is none where the whole goes on as ever', () => {
  const changes = moving(even(40));
  changes.columns.missing[19] = 1;
  expect(findJumps(changes, none(40), null)).toEqual([]);
  changes.columns.coarseCoherence[19] = 1.6;
  changes.columns.energy[19] = 1.5 * (changes.columns.energy[18] as number);
  expect(findJumps(changes, none(40), null)).toEqual([20]);
  // After a step back one of twice the length makes up for it.
  changes.columns.coarseCoherence[18] = -0.2;
  expect(findJumps(changes, none(40), null)).toEqual([]);
});
