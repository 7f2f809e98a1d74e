import { answer, json } from '@/server/http';

export const GET = () => answer(({ changes }) => json({ items: changes.night.mail() }));
