/** The server cannot begin its work: one sentence says why, another what to do. */
export class CannotOpen extends Error {
  override readonly name: string = 'CannotOpen';

  /** Told by its field: a process may hold more than one copy of this class. */
  static is(error: unknown): error is CannotOpen {
    return error instanceof Error && 'cannotOpen' in error;
  }

  readonly cannotOpen = true;

  constructor(
    message: string,
    readonly mend: string,
  ) {
    super(message);
  }
}
