import { CannotOpen } from '@/store/cannot-open';
import { trabes } from './instance';

/** Starts the instance of this process. Where it cannot be started the process ends with one sentence that says why, and what to do. */
export function startOrEnd(): void {
  try {
    trabes();
  } catch (error) {
    if (CannotOpen.is(error)) console.error(`${error.message} ${error.mend}`);
    else console.error('Trabes cannot start; please report this.', error);
    process.exit(1);
  }
}
