import { createHmac, timingSafeEqual } from 'node:crypto';
import { Problem } from './problem';
import { readSettings, type Settings } from './settings';

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];
export const TOKEN_COOKIE = 'trabes-token';

type Headers = Pick<globalThis.Headers, 'get'>;

/** The host names this server answers to. A name that merely points here is turned away. */
function answersTo(host: string | null, settings: Settings): boolean {
  if (!host) return false;
  const name = host.toLowerCase().replace(/:\d+$/, '');
  return LOOPBACK.includes(name) || name === settings.host || settings.allowedHosts.includes(name);
}

function sameOrigin(origin: string, host: string): boolean {
  try {
    return new URL(origin).host === host.toLowerCase();
  } catch {
    return false;
  }
}

const digest = (text: string, key: string): Buffer => createHmac('sha256', key).update(text).digest();

/** What the page's cookie holds instead of the token. */
export const cookieFor = (token: string): string => digest('trabes page', token).toString('base64url');

/** Compared through digests of one length, so that the time it takes tells nothing. */
const same = (a: string, b: string): boolean => timingSafeEqual(digest(a, 'compare'), digest(b, 'compare'));

export const isToken = (given: string, settings: Settings): boolean =>
  settings.token !== null && same(given, settings.token);

function cookieOf(headers: Headers): string {
  const found = (headers.get('cookie') ?? '')
    .split(';')
    .map((part) => part.trim().split('='))
    .find(([name]) => name === TOKEN_COOKIE);
  return found?.slice(1).join('=') ?? '';
}

/** Whether a request bears the token where one is needed: as a bearer, or in the page's cookie. */
export function bearsToken(headers: Headers, settings: Settings): boolean {
  if (settings.token === null) return true;
  const bearer = /^Bearer (.+)$/i.exec(headers.get('authorization') ?? '')?.[1];
  if (bearer !== undefined) return isToken(bearer.trim(), settings);
  return same(cookieOf(headers), cookieFor(settings.token));
}

/** Why a request is turned away before anybody looks at what it wants, or null. */
export function turnedAway(headers: Headers, { token = true } = {}): Problem | null {
  const settings = readSettings();
  const host = headers.get('host');
  if (!answersTo(host, settings))
    return new Problem(
      403,
      'foreign-host',
      'This server does not answer to that name.',
      'Use its address, or allow the name with TRABES_ALLOWED_HOSTS.',
    );
  const origin = headers.get('origin');
  if (origin !== null && !sameOrigin(origin, host!))
    return new Problem(
      403,
      'foreign-origin',
      'Requests from other origins are refused.',
      'Open the application at its own address.',
    );
  if (token && !bearsToken(headers, settings))
    return new Problem(
      401,
      'token-missing',
      'This server asks for its token.',
      'Send it as "Authorization: Bearer …", or open the page and enter it once.',
    );
  return null;
}
