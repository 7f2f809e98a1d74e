import { answer, json } from '@/server/http';
import {
  elsewhereView,
  planAnswer,
  planDayAnswer,
  pointAnswer,
  replicationAnswer,
  protectionView,
  subjectAnswer,
} from '@/server/protection';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const asked = new URL(request.url).searchParams;
    const [of, cut] = [asked.get('of'), asked.get('cut')];
    const replication = asked.get('replication');
    if (replication !== null) return json(replicationAnswer(plant, replication));
    const plan = asked.get('plan');
    if (plan !== null) {
      const link = asked.get('link') ?? '';
      const rpo = asked.get('rpo');
      return rpo === null
        ? json(planAnswer(plant, plan, link))
        : json(await planDayAnswer(plant, { of: plan, link, rpo: Number(rpo) }, { signal: request.signal }));
    }
    if (asked.has('elsewhere')) return json(elsewhereView(plant));
    if (of === null) return json(await protectionView(plant));
    return json(cut === null ? subjectAnswer(plant, of) : pointAnswer(plant, of, cut));
  });
