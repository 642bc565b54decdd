import { notifications } from '@mantine/notifications';
import { RequestError } from './client.js';

/** Shows what went wrong, in the server's own sentence. */
export function tellError(error: unknown): void {
  const message = error instanceof RequestError ? error.message : 'Something went wrong here. Nothing was changed.';
  notifications.show({ message, color: 'red', autoClose: 8000, withBorder: true });
}

/** Says something that happened and need not be undone, but may not be what was expected. */
export function tell(message: string): void {
  notifications.show({ message, autoClose: 8000, withBorder: true });
}
