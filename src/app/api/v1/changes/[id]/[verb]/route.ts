import { answer, json } from '@/server/http';
import { Problem } from '@/server/problem';

const verbs = ['run', 'undo', 'retry', 'cancel'] as const;

export const POST = (_request: Request, { params }: { params: Promise<{ id: string; verb: string }> }) =>
  answer(async ({ changes }) => {
    const { id, verb } = await params;
    const known = verbs.find((one) => one === verb);
    if (!known)
      throw new Problem(404, 'verb-unknown', `A change cannot be told to ${verb}.`, `It can: ${verbs.join(', ')}.`);
    return json(changes[known](id), 202);
  });
