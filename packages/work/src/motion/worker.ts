import { parentPort, workerData } from 'node:worker_threads';
import { openMotion } from '@thawline/core/motion';
import { pictureBytes } from '@thawline/core/picture';
import type { FromMotionWorker, MotionWorkerData, ToMotionWorker } from './messages.js';

/** A motion thread's whole life: pairs come, pictures between them go. */
const { layout, width, height, kind } = workerData as MotionWorkerData;
const engine = openMotion(layout, { width, height }, kind);
const bytes = pictureBytes(layout, width, height);

parentPort?.on('message', (message: ToMotionWorker) => {
  switch (message.type) {
    case 'pair':
      engine.push(message.a);
      engine.push(message.b);
      return;
    case 'make': {
      const picture = new Uint8Array(bytes);
      const { certainty, moved } = engine.make(message.t, picture);
      parentPort?.postMessage({ id: message.id, picture: picture.buffer, certainty, moved } satisfies FromMotionWorker, [
        picture.buffer,
      ]);
      return;
    }
    default:
      message satisfies never;
  }
});
