import { answer, json } from '@/server/http';
import { limitRows } from '@/server/load-limits';

export const GET = () => answer(({ plant }) => json({ items: limitRows(plant) }));
