import { NextResponse, type NextRequest } from 'next/server';
import { readSettings } from '@/server/settings';

const loopback = ['127.0.0.1', 'localhost', '[::1]'];

/** The host names this server answers to. A page of another origin, or a name that merely points here, is turned away. */
function allowed(host: string | null): boolean {
  if (!host) return false;
  const settings = readSettings();
  const name = host.toLowerCase().replace(/:\d+$/, '');
  return loopback.includes(name) || name === settings.host || settings.allowedHosts.includes(name);
}

const problem = (code: string, title: string, mend: string): Response =>
  new Response(
    JSON.stringify({ type: `urn:trabes:problem:${code}`, title, status: 403, detail: `${title} ${mend}`, code, mend }),
    { status: 403, headers: { 'content-type': 'application/problem+json' } },
  );

export function proxy(request: NextRequest): Response {
  const host = request.headers.get('host');
  if (!allowed(host))
    return problem(
      'foreign-host',
      'This server does not answer to that name.',
      'Use its address, or allow the name with TRABES_ALLOWED_HOSTS.',
    );
  const origin = request.headers.get('origin');
  if (origin !== null && !sameOrigin(origin, host!))
    return problem(
      'foreign-origin',
      'Requests from other origins are refused.',
      'Open the application at its own address.',
    );
  if (request.nextUrl.pathname.startsWith('/api/')) return NextResponse.next();
  return withPolicy(request);
}

function sameOrigin(origin: string, host: string): boolean {
  try {
    return new URL(origin).host === host.toLowerCase();
  } catch {
    return false;
  }
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

export const config = { matcher: ['/((?!_next/static|_next/image).*)'] };
