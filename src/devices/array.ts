import type { EstateView } from '@/core/estate/estate';
import type { Answer } from './answer';

/** An array takes orders while one of its controllers is up. */
export function arrayAnswers(view: EstateView, id: string): Answer {
  const array = view.table('array').get(id);
  const controllers = view.table('controller').by('array', id);
  if (controllers.some((controller) => controller.state === 'up')) return { ok: true };
  const name = array?.name ?? id;
  return {
    ok: false,
    refusal: {
      code: 'array-does-not-answer',
      subject: { kind: 'array', id, name },
      message: `${name} does not answer: none of its controllers is up.`,
      mend: 'Bring a controller up again and retry.',
    },
  };
}
