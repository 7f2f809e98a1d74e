/** An operation that is offered, with its parameters filled in. */
export interface NextStep {
  label: string;
  do: string;
  params: Record<string, unknown>;
}

export const nextStep = (label: string, kind: string, params: Record<string, unknown>): NextStep => ({
  label,
  do: kind,
  params,
});
