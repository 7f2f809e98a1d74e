import { randomUUID } from 'node:crypto';

/** Asks for the server's token, once: without scripts, so that nothing of the application is handed out before. */
export function tokenPage(wrong: boolean): Response {
  const nonce = randomUUID();
  const html = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Trabes</title>
<style nonce="${nonce}">
  body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: #edf1ef; color: #10201a;
    font: 15px/22px system-ui, sans-serif; }
  form { width: 340px; padding: 24px 26px 26px; background: #f6f8f7; border: 1.5px solid #10201a; }
  h1 { margin: 0 0 14px; font-size: 20px; }
  label { display: block; margin-bottom: 6px; }
  input { box-sizing: border-box; width: 100%; height: 34px; padding: 0 8px; font: inherit; color: inherit;
    background: #fff; border: 1px solid #10201a; }
  button { margin-top: 14px; height: 34px; padding: 0 16px; font: inherit; color: #f6f8f7; background: #10201a; border: 0; }
  input:focus, button:focus { outline: 2px solid #10201a; outline-offset: 2px; }
  p { margin: 10px 0 0; color: #36463f; }
  p[role=alert] { color: #a61f14; }
  @media (prefers-color-scheme: dark) {
    body { background: #131b18; color: #e6eee9; }
    form { background: #18221e; border-color: #e6eee9; }
    input { background: #131b18; border-color: #e6eee9; }
    button { color: #18221e; background: #e6eee9; }
    input:focus, button:focus { outline-color: #e6eee9; }
    p { color: #b9c6bf; }
    p[role=alert] { color: #ff9d8f; }
  }
</style>
</head>
<body>
<form method="post" action="/api/v1/token">
  <h1>Trabes</h1>
  <label for="token">Token of this server</label>
  <input id="token" name="token" type="password" autocomplete="current-password" autofocus required>
  ${wrong ? '<p role="alert">That is not the token.</p>' : ''}
  <p>Whoever started the server set it as TRABES_TOKEN. This browser keeps it until it is closed.</p>
  <button>Open</button>
</form>
</body>
</html>
`;
  return new Response(html, {
    status: 401,
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'cache-control': 'no-store',
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'same-origin',
      'content-security-policy': `default-src 'none'; style-src 'nonce-${nonce}'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'`,
    },
  });
}
