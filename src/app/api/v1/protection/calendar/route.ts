import { answer } from '@/server/http';
import { planCalendar } from '@/server/protection';

/** The schedules of all plans, as calendars read them. */
export const GET = () =>
  answer(
    async ({ plant }) =>
      new Response(planCalendar(plant), {
        headers: {
          'content-type': 'text/calendar; charset=utf-8',
          'content-disposition': 'attachment; filename="protection-plans.ics"',
        },
      }),
  );
