import { beginsAt } from '@/core/change/begins';
import { answer, json } from '@/server/http';
import { Problem } from '@/server/problem';

/** When something begins that is to begin on a day or with a rhythm, by the clock of a zone. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const { searchParams } = new URL(request.url);
    const begins = beginsAt(searchParams.get('begins') ?? '', searchParams.get('zone') ?? 'UTC', plant.lab.now);
    if (!begins.ok) throw new Problem(422, begins.reason, begins.message, 'Write a day, or a rhythm such as SU 02:00.');
    return json({ at: begins.value });
  });
