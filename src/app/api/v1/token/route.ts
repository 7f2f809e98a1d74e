import { bodyText } from '@/server/http';
import { cookieFor, isToken, TOKEN_COOKIE, turnedAway } from '@/server/guard';
import { Problem } from '@/server/problem';
import { problemResponse } from '@/server/problem-response';
import { readSettings } from '@/server/settings';

/** Takes the token from the page that asks for it and leaves a cookie in its place. */
export async function POST(request: Request): Promise<Response> {
  const away = turnedAway(request.headers, { token: false });
  if (away) return problemResponse(away);
  const settings = readSettings();
  const to = (path: string, cookie?: string) =>
    new Response(null, { status: 303, headers: { location: path, ...(cookie ? { 'set-cookie': cookie } : {}) } });
  try {
    const given = new URLSearchParams(await bodyText(request, 4096)).get('token') ?? '';
    if (!isToken(given.trim(), settings)) return to('/?token=wrong');
    return to('/', `${TOKEN_COOKIE}=${cookieFor(settings.token!)}; Path=/; HttpOnly; SameSite=Strict`);
  } catch (error) {
    if (Problem.is(error)) return problemResponse(error);
    throw error;
  }
}
