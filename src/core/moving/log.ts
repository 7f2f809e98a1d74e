import type { Move } from '../estate/entities';
import type { Milliseconds } from '../units/duration';

/** How many lines of its log a move keeps. */
const LINES = 60;

/** The log of a move with further lines. */
export const logged = ({ log }: Pick<Move, 'log'>, at: Milliseconds, ...says: string[]): Move['log'] =>
  [...log, ...says.map((one) => ({ at, says: one }))].slice(-LINES);
