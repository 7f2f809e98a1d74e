import { parentPort, workerData } from 'node:worker_threads';
import { threadTasks, type ThreadTasks } from './thread-tasks';

const { task, given } = workerData as { task: keyof ThreadTasks; given: never };
parentPort?.postMessage(threadTasks[task](given));
