import { capacityView } from '@/server/capacity';
import { answer, json } from '@/server/http';

export const GET = () => answer(({ plant }) => json(capacityView(plant)));
