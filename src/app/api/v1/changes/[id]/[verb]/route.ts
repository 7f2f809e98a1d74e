import { answer, json, seenRevision, tagged, watching } from '@/server/http';
import { Problem } from '@/server/problem';

const verbs = ['run', 'undo', 'retry', 'cancel', 'again', 'withdraw'] as const;

export const POST = (request: Request, { params }: { params: Promise<{ id: string; verb: string }> }) =>
  answer(async ({ changes }) => {
    const { id, verb } = await params;
    const known = verbs.find((one) => one === verb);
    if (!known)
      throw new Problem(404, 'verb-unknown', `A change cannot be told to ${verb}.`, `It can: ${verbs.join(', ')}.`);
    const change = await changes[known](id, seenRevision(request), watching(request));
    return tagged(json(change, known === 'again' ? 201 : 202), change);
  });
