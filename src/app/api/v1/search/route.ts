import { searching } from '@/core/span/search';
import { dateText } from '@/core/units/date';
import { DAY } from '@/core/units/duration';
import { answer, json } from '@/server/http';
import { inSlices } from '@/server/slices';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const text = new URL(request.url).searchParams.get('q') ?? '';
    // `tickets yesterday 18:00`: the day is that of the lab's clock.
    const days = { today: plant.lab.now, yesterday: plant.lab.now - DAY };
    const dated = text.replace(/\b(today|yesterday)\b/gi, (word) =>
      dateText(days[word.toLowerCase() as keyof typeof days]),
    );
    return json({ items: await inSlices(searching(plant.estate, dated)) });
  });
