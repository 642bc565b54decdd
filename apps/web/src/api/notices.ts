import { notifications } from '@mantine/notifications';
import { RequestError } from './client.js';

/** Shows what went wrong, in the server's own sentence. */
export function tellError(error: unknown): void {
  notifications.show({ message: sentenceOf(error), color: 'red', autoClose: 8000, withBorder: true });
}

/** The sentence for a failed request, or for a fault of this page. */
export function sentenceOf(error: unknown): string {
  return error instanceof RequestError ? error.message : 'Something went wrong here. Nothing was changed.';
}

/** Says something that happened and need not be undone, but may not be what was expected. */
export function tell(message: string): void {
  notifications.show({ message, autoClose: 8000, withBorder: true });
}
