import type { DrillPart } from '../kinds/drill';
import type { Milliseconds } from '../units/duration';

/** What all tasks of a drilled replication took, one after the other. */
export const partTook = ({ tasks }: Pick<DrillPart, 'tasks'>): Milliseconds =>
  tasks.reduce((sum, { took }) => sum + took, 0);
