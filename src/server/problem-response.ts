import type { Problem } from './problem';

/** Problem details for HTTP APIs (RFC 9457). */
export function problemResponse(
  { status, code, message, mend, refusals }: Problem,
  headers: HeadersInit = {},
): Response {
  const body = {
    type: `urn:trabes:problem:${code}`,
    title: message,
    status,
    detail: `${message} ${mend}`,
    code,
    mend,
    ...(refusals.length > 0 ? { refusals } : {}),
  };
  return new Response(JSON.stringify(body), {
    status,
    headers: { 'content-type': 'application/problem+json', 'x-content-type-options': 'nosniff', ...headers },
  });
}
