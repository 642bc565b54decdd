/** This browser window, for the server: undo takes back its own steps. It is the same after a reload. */

const WINDOW_KEY = 'thawline-window';

/** Ids for requests and windows: the server knows again what it has seen. */
export function uniqueId(): string {
  return crypto.randomUUID().replaceAll('-', '');
}

let own: string | null = null;

export function windowId(): string {
  own ??= remembered();
  return own;
}

function remembered(): string {
  try {
    const known = sessionStorage.getItem(WINDOW_KEY);
    if (known) return known;
    const made = uniqueId();
    sessionStorage.setItem(WINDOW_KEY, made);
    return made;
  } catch {
    // A browser that keeps nothing: after a reload it is another window.
    return uniqueId();
  }
}
