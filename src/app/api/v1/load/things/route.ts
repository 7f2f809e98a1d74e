import { answer, json } from '@/server/http';
import { loadThings } from '@/server/load-questions';

export const GET = () => answer(({ plant }) => json(loadThings(plant)));
