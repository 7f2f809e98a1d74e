import { answer, json } from '@/server/http';
import { pointAnswer, protectionView, subjectAnswer } from '@/server/protection';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const asked = new URL(request.url).searchParams;
    const [of, cut] = [asked.get('of'), asked.get('cut')];
    if (of === null) return json(await protectionView(plant));
    return json(cut === null ? subjectAnswer(plant, of) : pointAnswer(plant, of, cut));
  });
