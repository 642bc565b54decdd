import type { Waiting } from './outbox.js';

/** Changes that the server has not stored yet, kept so that they outlive a reload of this tab. */

export function loadHeld(key: string): Waiting[] {
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? '[]') as Waiting[];
  } catch {
    // Nothing is kept here, or nothing that can be read.
    return [];
  }
}

export function saveHeld(key: string, held: readonly Waiting[]): void {
  try {
    if (held.length === 0) sessionStorage.removeItem(key);
    else sessionStorage.setItem(key, JSON.stringify(held));
  } catch {
    // A browser that keeps nothing: what is held lasts as long as the page.
  }
}
