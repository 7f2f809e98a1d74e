import { notParsed, type ParseFailure } from '../units/parsed';

/** Why a move or a plan of moves is refused: what a person reads, with `{0}`, `{1}` for what it is about (move.md J). */
const words = {
  'move-pause-below-barrier': 'Switching alone takes {0}; the allowed pause is {1}.',
  'waves-unknown-predecessor': '{0} waits for {1}, which is not in the plan.',
  'waves-cycle': '{0} waits for {1} and the other way round.',
  'waves-unknown-resource': '{0} names an unknown array or link: {1}.',
  'waves-no-link': 'No link between {0} and {1}.',
  'waves-windows-too-short': '{0} are left after the last window; add {1} h.',
} as const;

export type MoveRefusal = keyof typeof words;

export const refuse = (reason: MoveRefusal, ...about: string[]): ParseFailure & { reason: MoveRefusal } => ({
  ...notParsed(
    reason,
    words[reason].replace(/\{(\d)\}/g, (_, k: string) => about[Number(k)] ?? ''),
  ),
  reason,
});
