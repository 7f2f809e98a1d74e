import { parentPort, workerData } from 'node:worker_threads';
import { textTasks, type TextTasks } from './text-tasks';

const { task, given } = workerData as { task: keyof TextTasks; given: never };
parentPort?.postMessage(textTasks[task](given));
