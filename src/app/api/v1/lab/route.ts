import { answer, json } from '@/server/http';
import { labView } from '@/server/lab';

export const GET = () => answer(({ plant }) => json(labView(plant)));
