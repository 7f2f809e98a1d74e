import type { StepDevice } from './operation';

/** Whom a step is told to that no device carries out: Trabes' own record. */
export const record: StepDevice = { kind: 'record', id: '', name: 'Trabes' };
