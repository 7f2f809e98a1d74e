import { askedBegin } from '@/server/begins';
import { answer, json } from '@/server/http';

/** When something begins that is to begin on a day or with a rhythm, by the clock of a zone. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const { searchParams } = new URL(request.url);
    return json({ at: askedBegin(plant, searchParams.get('begins') ?? '', searchParams.get('zone') ?? 'UTC') });
  });
