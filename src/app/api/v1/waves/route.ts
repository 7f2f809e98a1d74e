import { answer, json } from '@/server/http';
import { moveOf, movesOf } from '@/server/moves';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const of = new URL(request.url).searchParams.get('of');
    return json(of === null ? movesOf(plant) : moveOf(plant, of));
  });
