import { answer, json } from '@/server/http';
import {
  elsewhereView,
  planAnswer,
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
    if (plan !== null) return json(planAnswer(plant, plan, asked.get('link') ?? ''));
    if (asked.has('elsewhere')) return json(elsewhereView(plant));
    if (of === null) return json(await protectionView(plant));
    return json(cut === null ? subjectAnswer(plant, of) : pointAnswer(plant, of, cut));
  });
