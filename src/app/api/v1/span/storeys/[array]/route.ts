import { answer, jsonText } from '@/server/http';

export const GET = (_request: Request, { params }: { params: Promise<{ array: string }> }) =>
  answer(async ({ drawing }) => jsonText(await drawing.storey((await params).array)));
