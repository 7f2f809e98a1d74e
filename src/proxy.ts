import { NextResponse, type NextRequest } from 'next/server';
import { bearsToken, turnedAway } from '@/server/guard';
import { problemResponse } from '@/server/problem-response';
import { readSettings } from '@/server/settings';
import { tokenPage } from '@/server/token-page';

/** Pages are shown to those alone who may see them; the API asks the same guard by itself. */
export function proxy(request: NextRequest): Response {
  const away = turnedAway(request.headers, { token: false });
  if (away) return problemResponse(away);
  if (!bearsToken(request.headers, readSettings()))
    return tokenPage(request.nextUrl.searchParams.get('token') === 'wrong');
  return withPolicy(request);
}

/** Pages may load and talk to nothing but this server. */
function withPolicy(request: NextRequest): Response {
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const developing = process.env.NODE_ENV === 'development';
  const policy = [
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${developing ? " 'unsafe-eval'" : ''}`,
    developing ? "style-src 'self' 'unsafe-inline'" : `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "default-src 'self'",
    "worker-src 'self' blob:",
    "connect-src 'self'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "object-src 'none'",
    "base-uri 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
}

// The API is left out: what passes here is copied and cut, and a whole estate is large.
export const config = { matcher: ['/((?!api/|_next/static|_next/image).*)'] };
