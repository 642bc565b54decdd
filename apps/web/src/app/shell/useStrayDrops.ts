import { useEffect } from 'react';

/**
 * Files that are dropped where nothing takes them are refused with a word: left to itself the browser would open them in place of the
 * app, and what was not saved yet would be gone.
 * @param onStray told of the number of files
 */
export function useStrayDrops(onStray: (files: number) => void): void {
  useEffect(() => {
    const holdsFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') ?? false;
    const over = (event: DragEvent): void => {
      if (event.defaultPrevented || !holdsFiles(event)) return;
      event.preventDefault();
      if (event.dataTransfer) event.dataTransfer.dropEffect = 'none';
    };
    const drop = (event: DragEvent): void => {
      if (event.defaultPrevented || !holdsFiles(event)) return;
      event.preventDefault();
      onStray(event.dataTransfer?.files.length ?? 0);
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, [onStray]);
}
