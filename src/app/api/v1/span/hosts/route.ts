import { answer, jsonText } from '@/server/http';

export const GET = (request: Request) =>
  answer(({ drawing }) => jsonText(drawing.hosts((new URL(request.url).searchParams.get('ids') ?? '').split(','))));
