import { answer } from '@/server/http';

/** When approved changes begin, as calendars read it. */
export const GET = () =>
  answer(
    ({ changes }) =>
      new Response(changes.night.calendar(), {
        headers: {
          'content-type': 'text/calendar; charset=utf-8',
          'content-disposition': 'attachment; filename="changes.ics"',
        },
      }),
  );
