/** An operation that is offered, with its parameters filled in. */
export interface NextStep {
  label: string;
  do: string;
  params: Record<string, unknown>;
  /** The field that it is about: a form opens on it. */
  field?: string;
}

export const nextStep = (label: string, kind: string, params: Record<string, unknown>, field?: string): NextStep => ({
  label,
  do: kind,
  params,
  ...(field === undefined ? {} : { field }),
});
