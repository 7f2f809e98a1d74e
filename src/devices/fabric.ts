import type { EstateView } from '@/core/estate/estate';
import type { Answer } from './answer';

/** A fabric takes orders while all its switches answer: a change of zones must reach each of them, or none. */
export function fabricAnswers(view: EstateView, id: string): Answer {
  const silent = view
    .table('switch')
    .by('fabric', id)
    .find((row) => row.state === 'down');
  if (!silent) return { ok: true };
  return {
    ok: false,
    refusal: {
      code: 'switch-does-not-answer',
      subject: { kind: 'switch', id: silent.id, name: silent.name },
      message: `${silent.name} does not answer, and zones are changed on all switches or on none.`,
      mend: 'Bring the switch up again and retry.',
    },
  };
}
