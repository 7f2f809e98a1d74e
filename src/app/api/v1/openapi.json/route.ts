import { answer, json } from '@/server/http';
import { openApi } from '@/server/openapi';

export const GET = () => answer(() => json(openApi()));
