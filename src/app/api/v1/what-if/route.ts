import { outageReport } from '@/core/whatif/report';
import { componentIds, whatIfAnswer } from '@/server/attach-views';
import { answer, json, text } from '@/server/http';

/** Who loses what when components fail; nothing is touched. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const failed = componentIds(plant, query.getAll('failed').filter(Boolean));
    const found = whatIfAnswer(plant, failed, query.get('find') ?? '');
    if (query.get('format') === 'markdown') return text(outageReport(found.outage), 'text/markdown', 'planned-work.md');
    return json(found);
  });
