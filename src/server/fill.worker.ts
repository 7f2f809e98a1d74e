import { parentPort, workerData } from 'node:worker_threads';
import { openTrabes } from './instance';

/** Puts the demo up in a database of its own, from which the server then takes it over. */
openTrabes((workerData as { file: string }).file, 'demo').plant.close();
parentPort?.postMessage('filled');
