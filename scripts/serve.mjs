// Starts the built application: one HTTP server around Next's handler. Requests that Next could only answer with a defect are told in words here.
import http from 'node:http';
import path from 'node:path';
import { root } from './install.mjs';

process.chdir(root);
process.env.NODE_ENV = 'production';
process.env.NEXT_TELEMETRY_DISABLED = '1';

const die = (message, mend) => {
  console.error(`${message} ${mend}`);
  process.exit(1);
};

const port = process.env.TRABES_PORT ?? process.env.PORT ?? '4600';
if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535)
  die(
    `TRABES_PORT is ${JSON.stringify(port)}; a port is a number from 0 to 65535.`,
    'Correct it, or leave it out for 4600.',
  );
const host = process.env.TRABES_HOST ?? '127.0.0.1';

const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'];

function problem(response, status, code, message, mend) {
  response.statusCode = status;
  response.setHeader('content-type', 'application/problem+json');
  response.end(
    JSON.stringify({
      type: `urn:trabes:problem:${code}`,
      title: message,
      status,
      detail: `${message} ${mend}`,
      code,
      mend,
    }),
  );
}

/** Why a request is not handed on, or false once it was answered. */
function refused(request, response) {
  response.setHeader('x-content-type-options', 'nosniff');
  if (!METHODS.includes(request.method)) {
    response.setHeader('allow', METHODS.join(', '));
    problem(response, 405, 'method-unknown', `${request.method} is not taken.`, `Use ${METHODS.join(', ')}.`);
    return true;
  }
  try {
    decodeURIComponent(new URL(request.url, 'http://localhost').pathname);
    return false;
  } catch {
    problem(response, 400, 'path-broken', 'The path is no UTF-8 behind its percent signs.', 'Write % itself as %25.');
    return true;
  }
}

/** A method that a path under /api does not take is answered by Next with nothing at all; here it is said. */
function saysWrongMethod(request, response) {
  const { end } = response;
  response.end = (...args) => {
    response.end = end;
    if (response.statusCode !== 405 || response.headersSent || response.hasHeader('content-type'))
      return end.apply(response, args);
    problem(
      response,
      405,
      'method-not-taken',
      `${request.method} is not taken at ${new URL(request.url, 'http://localhost').pathname}.`,
      'What each path takes stands in /api/v1/openapi.json.',
    );
    return response;
  };
}

const { default: next } = await import('next');
const app = next({ dev: false, dir: root, hostname: host, port: Number(port) });
const handle = app.getRequestHandler();
let begin;
const ready = new Promise((resolve) => {
  begin = () => app.prepare().then(resolve, (error) => die(error.message, `See ${path.join(root, 'README.md')}.`));
});
const server = http.createServer((request, response) => {
  if (refused(request, response)) return;
  if (request.url.startsWith('/api/')) saysWrongMethod(request, response);
  void ready.then(() => handle(request, response));
});
// An estate of many megabytes takes its time to come in.
server.requestTimeout = 30 * 60_000;
// Longer than clients and proxies keep a connection: none of them sends a request into one that is being closed.
server.keepAliveTimeout = 75_000;
server.on('error', (error) => {
  if (error.code === 'EADDRINUSE') die(`Port ${port} is taken.`, 'Free it, or choose another with TRABES_PORT.');
  if (error.code === 'EADDRNOTAVAIL' || error.code === 'ENOTFOUND')
    die(`This machine has no address ${host}.`, 'Correct TRABES_HOST.');
  if (error.code === 'EACCES') die(`Port ${port} needs rights that this user has not.`, 'Choose one from 1024 on.');
  throw error;
});
const stop = () => {
  server.close();
  // Streams end by themselves; what still lingers is not waited for.
  setTimeout(() => process.exit(0), 2000).unref();
  server.closeIdleConnections();
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
// The port is taken first, so that of two that start at once one ends here; whoever asks meanwhile waits.
server.listen(Number(port), host, () => begin());
