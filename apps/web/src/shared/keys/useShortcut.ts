import { type Options, useHotkeys } from 'react-hotkeys-hook';
import { keysOf, type ShortcutName } from './shortcuts.js';

/** Keys that lists, radios and sliders use themselves while they have the focus. */
const OWN = /^(Arrow(Up|Down|Left|Right)|Home|End|PageUp|PageDown| |Enter)$/;

interface Pressed {
  readonly key: string;
  readonly ctrlKey: boolean;
  readonly metaKey: boolean;
  readonly altKey: boolean;
  readonly target: EventTarget | null;
}

/**
 * Whether a key press belongs to what has the focus: whatever is typed into a field of text; of a list, a radio or a slider the keys that
 * move it. With Ctrl or Alt beside it, it moves nothing there.
 */
export function isTheFocus({ key, ctrlKey, metaKey, altKey, target }: Pressed): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement) return true;
  const chord = ctrlKey || metaKey || altKey;
  if (target instanceof HTMLInputElement) {
    const moved = ['radio', 'checkbox', 'range', 'button', 'submit', 'file'].includes(target.type) || target.readOnly;
    return moved ? !chord && OWN.test(key) : true;
  }
  const moved = target instanceof HTMLSelectElement || /^(option|listbox|slider|menuitem|radio)$/.test(target.role ?? '');
  return moved && !chord && OWN.test(key);
}

/** Binds a shortcut by its name. It works everywhere, except where the focused element uses the key itself. */
export function useShortcut(name: ShortcutName, act: () => void, options: Options = {}): void {
  useHotkeys(keysOf(name), () => act(), { enableOnFormTags: true, ignoreEventWhen: isTheFocus, ...options });
}
