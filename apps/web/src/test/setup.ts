import '@testing-library/jest-dom';
import { cleanup, configure } from '@testing-library/react';
import { useView } from '../shared/state/view.js';
import { computedStyle } from './computedStyle.js';

/** What browsers have and jsdom has not, as little of it as views ask for. Nothing is drawn or played: the stories look at that. */

class Observer {
  observe(): void {
    // Nothing changes its size here.
  }
  unobserve(): void {
    // See observe.
  }
  disconnect(): void {
    // See observe.
  }
}

Object.assign(globalThis, { ResizeObserver: Observer, IntersectionObserver: Observer });

Object.defineProperty(window, 'matchMedia', {
  value: (query: string) => ({ matches: false, media: query, addEventListener: nothing, removeEventListener: nothing }),
});
window.getComputedStyle = computedStyle;
Element.prototype.scrollIntoView = nothing;
Element.prototype.scrollTo = function (to?: ScrollToOptions | number) {
  if (typeof to === 'object') this.scrollTop = to.top ?? this.scrollTop;
  // Browsers tell of it later, too.
  queueMicrotask(() => this.dispatchEvent(new Event('scroll')));
};
HTMLCanvasElement.prototype.getContext = () => null;
Blob.prototype.text = function () {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result));
    reader.onerror = () => reject(reader.error ?? new Error('not read'));
    reader.readAsText(this);
  });
};
// Rows that are only drawn where they can be seen have a window of this size to be seen in.
Element.prototype.getBoundingClientRect = () => new DOMRect(0, 0, 1000, 600);
const SIZE = { offsetWidth: 1000, offsetHeight: 600, clientWidth: 1000, clientHeight: 600 };
for (const [name, value] of Object.entries(SIZE))
  Object.defineProperty(HTMLElement.prototype, name, { configurable: true, value });
Object.defineProperty(Document.prototype, 'fonts', {
  configurable: true,
  value: { addEventListener: nothing, removeEventListener: nothing, ready: Promise.resolve() },
});
if (!('randomUUID' in crypto)) Object.assign(crypto, { randomUUID: () => '00000000-0000-4000-8000-000000000000' });

function nothing(): void {
  // Asked for, and not needed here.
}

// What is waited for comes in a moment where the machine is free; where it is not, a second is too short for the first view of a file.
configure({ asyncUtilTimeout: 30_000 });

const fresh = useView.getState();
afterEach(() => {
  cleanup();
  useView.setState(fresh, true);
  sessionStorage.clear();
  localStorage.clear();
});
