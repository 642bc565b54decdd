import { parentPort, workerData } from 'node:worker_threads';
import { type EditToRead, readEdit } from './readEdit.js';

/** The thread's whole life: one edit file. */
parentPort?.postMessage(readEdit(workerData as EditToRead));
