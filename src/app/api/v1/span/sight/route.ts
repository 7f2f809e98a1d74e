import { answer, jsonText } from '@/server/http';

export const GET = () => answer(async ({ drawing }) => jsonText(await drawing.sight()));
