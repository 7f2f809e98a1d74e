import { classesOf } from '@/server/classes';
import { answer, json } from '@/server/http';

export const GET = () => answer(({ plant }) => json(classesOf(plant)));
