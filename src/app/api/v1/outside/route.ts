import { answer, json } from '@/server/http';
import { outsideLunOf, outsideOf } from '@/server/outside';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const of = new URL(request.url).searchParams.get('of');
    return json(of === null ? outsideOf(plant) : outsideLunOf(plant, of));
  });
