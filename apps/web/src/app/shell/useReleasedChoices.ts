import { useEffect } from 'react';

/**
 * A choice made with the mouse gives the keyboard back: while a radio button has the focus, no shortcut is heard. One made by keys
 * keeps it, to go on by arrows.
 */
export function useReleasedChoices(): void {
  useEffect(() => {
    const release = ({ target }: Event): void => {
      if (target instanceof HTMLInputElement && target.type === 'radio' && !target.matches(':focus-visible')) target.blur();
    };
    document.addEventListener('change', release);
    return () => document.removeEventListener('change', release);
  }, []);
}
