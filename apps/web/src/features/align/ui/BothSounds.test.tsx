import { fireEvent, screen, waitFor } from '@testing-library/react';
import { solveTies } from '@thawline/core/align';
import { film, showAlone } from '../../../test/project.fixture.js';
import { BothSounds } from './BothSounds.js';

/** Both last 8 s; b begins 2 s after a, so that both together take 10 s: 100 pixels a second. */
const [a, b] = [film('ridge-wide', { sound: null }), film('tape', { sound: null })];
const ties = [2, 4, 6].map((at) => ({ a: at * 1e6, b: (at - 2) * 1e6 }));

/** A box that is as wide as the window of the tests. */
class Sized {
  constructor(private readonly told: ResizeObserverCallback) {}
  observe(target: Element): void {
    const contentRect = new DOMRect(0, 0, 1000, 236);
    this.told([{ target, contentRect } as unknown as ResizeObserverEntry], this as unknown as ResizeObserver);
  }
  unobserve(): void {
    // Nothing changes its size here.
  }
  disconnect(): void {
    // See unobserve.
  }
}

/** Where a pointer is, as for a mouse. */
class Pointer extends MouseEvent {
  readonly pointerId = 1;
}

async function shown(chosen: number | null = null) {
  Object.assign(globalThis, { ResizeObserver: Sized, PointerEvent: Pointer });
  Element.prototype.setPointerCapture = () => undefined;
  const done: unknown[] = [];
  showAlone(
    <BothSounds
      a={a}
      b={b}
      ties={ties}
      solution={solveTies(ties)}
      found={null}
      chosen={chosen}
      at={1}
      onAt={(seconds) => done.push(['at', seconds])}
      onChoose={(index) => done.push(['choose', index])}
      onMove={(...moved) => done.push(['move', ...moved])}
    />,
  );
  await waitFor(() => expect(screen.getByTestId('end-a-0')).toHaveAttribute('cx', '200'));
  return done;
}
const drag = (end: string, from: number, to: number) => {
  fireEvent.pointerDown(screen.getByTestId(end), { clientX: from, pointerId: 1 });
  fireEvent.pointerMove(screen.getByTestId('waves'), { clientX: to, pointerId: 1 });
  fireEvent.pointerUp(screen.getByTestId('waves'), { clientX: to, pointerId: 1 });
};
const xOf = (end: string) => Number(screen.getByTestId(end).getAttribute('cx'));

test('both lie on one line of time, each tie where both heard it', async () => {
  await shown();
  expect(['end-a-0', 'end-a-1', 'end-a-2'].map(xOf)).toEqual([200, 400, 600]);
  expect(['end-b-0', 'end-b-1', 'end-b-2'].map(xOf)).toEqual([200, 400, 600]);
  expect(screen.getByRole('group', { name: '3 ties between ridge-wide and tape' })).toBeVisible();
  expect(screen.getAllByText('no sound')).toHaveLength(2);
});

test('an end that is dragged moves in its own recording, in its own seconds', async () => {
  const done = await shown();
  drag('end-a-1', 400, 450);
  expect(done).toEqual([
    ['choose', 1],
    ['move', 1, 'a', 4.5],
  ]);
  drag('end-b-2', 600, 550);
  expect(done.slice(2)).toEqual([
    ['choose', 2],
    ['move', 2, 'b', 3.5],
  ]);
});

test('a press without a drag chooses a tie and moves nothing', async () => {
  const done = await shown();
  drag('end-a-1', 400, 401);
  expect(done).toEqual([['choose', 1]]);
});

test('a press beside the ties is a moment of the first recording', async () => {
  const done = await shown();
  fireEvent.pointerDown(screen.getByTestId('waves'), { clientX: 325 });
  expect(done).toEqual([['at', 3.25]]);
});

test('the wheel looks closer where it turns, and out again as far as both are whole', async () => {
  await shown();
  const wheel = (deltaY: number, more = {}) => fireEvent.wheel(screen.getByTestId('waves'), { deltaY, clientX: 400, ...more });
  wheel(-100);
  // What is under the pointer stays there.
  expect(xOf('end-a-1')).toBeCloseTo(400, 6);
  expect(xOf('end-a-0')).toBeCloseTo(400 - 200 / 0.8, 6);
  wheel(100, { shiftKey: true });
  expect(xOf('end-a-1')).toBeLessThan(399);
  for (let i = 0; i < 4; i++) wheel(100);
  expect(['end-a-0', 'end-a-1', 'end-a-2'].map(xOf)).toEqual([200, 400, 600]);
});
