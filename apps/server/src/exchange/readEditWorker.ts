import { parentPort, workerData } from 'node:worker_threads';
import { type EditToRead, readEdit } from './readEdit.js';

/** The thread's whole life: one edit file. */
// As text: parsing it takes the server half as long as receiving thousands of objects.
parentPort?.postMessage(JSON.stringify(readEdit(workerData as EditToRead)));
