import type { Refusal } from '@/core/operation/refusal';

/** Something asked for that cannot be answered: it becomes problem details (RFC 9457). */
export class Problem extends Error {
  override readonly name = 'Problem';

  /** The bundler keeps more than one copy of this class in a process, so its kind is told by name, not by instanceof. */
  static is(error: unknown): error is Problem {
    return error instanceof Error && error.name === 'Problem' && 'mend' in error;
  }

  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly mend: string,
    readonly refusals: readonly Refusal[] = [],
  ) {
    super(message);
  }
}

export const refusedProblem = (refusals: readonly Refusal[], status = 422): Problem => {
  const [first] = refusals;
  return new Problem(status, first!.code, first!.message, first!.mend, refusals);
};
