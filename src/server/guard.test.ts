import { CannotOpen } from '@/store/cannot-open';
import { bearsToken, cookieFor, isToken, TOKEN_COOKIE, turnedAway } from './guard';
import { addressOf, readSettings } from './settings';
import { tokenPage } from './token-page';

const TOKEN = 'a-long-random-text-of-2031';
const env = (more: Record<string, string>) => readSettings({ NODE_ENV: 'test', ...more });
const withToken = env({ TRABES_TOKEN: TOKEN });
const whyNot = (more: Record<string, string>): string => {
  try {
    env(more);
  } catch (error) {
    if (CannotOpen.is(error)) return error.message;
    throw error;
  }
  return '';
};

describe('who is let in', () => {
  test('a name that merely points here, and a page of elsewhere, are turned away', () => {
    const away = (headers: Record<string, string>) => turnedAway(new Headers(headers))?.code ?? null;
    expect(away({ host: '127.0.0.1:4600' })).toBeNull();
    expect(away({ host: 'LOCALHOST:4600', origin: 'http://localhost:4600' })).toBeNull();
    expect(away({ host: 'evil.example' })).toBe('foreign-host');
    expect(away({})).toBe('foreign-host');
    expect(away({ host: 'localhost:4600', origin: 'http://evil.example' })).toBe('foreign-origin');
    expect(away({ host: 'localhost:4600', origin: 'null' })).toBe('foreign-origin');
  });

  test('where a token is set it is asked of everybody, as a bearer or in the cookie', () => {
    const bears = (headers: Record<string, string>) => bearsToken(new Headers(headers), withToken);
    expect(bears({})).toBe(false);
    expect(bears({ authorization: `Bearer ${TOKEN}` })).toBe(true);
    expect(bears({ authorization: `bearer  ${TOKEN} ` })).toBe(true);
    expect(bears({ authorization: `Bearer ${TOKEN}x` })).toBe(false);
    expect(bears({ authorization: TOKEN })).toBe(false);
    expect(bears({ cookie: `other=1; ${TOKEN_COOKIE}=${cookieFor(TOKEN)}` })).toBe(true);
    expect(bears({ cookie: `${TOKEN_COOKIE}=${TOKEN}` })).toBe(false);
    expect(cookieFor(TOKEN)).not.toContain(TOKEN);
    expect(isToken(TOKEN, withToken)).toBe(true);
    expect(isToken('', env({}))).toBe(false);
    expect(bearsToken(new Headers(), env({}))).toBe(true);
  });

  test('the page that asks for it holds nothing else, and says when it was wrong', async () => {
    const page = tokenPage(true);
    expect(page.status).toBe(401);
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'");
    expect(await page.text()).toContain('That is not the token.');
    expect(await tokenPage(false).text()).not.toContain('That is not the token.');
  });
});

describe('settings', () => {
  test('that leave the door open, or make no sense, end the start in words', () => {
    expect(whyNot({ TRABES_HOST: '0.0.0.0' })).toContain('no token keeps them out');
    expect(whyNot({ TRABES_HOST: '0.0.0.0', TRABES_TOKEN: 'short' })).toContain('16 are needed');
    expect(whyNot({ TRABES_HOST: '0.0.0.0', TRABES_TOKEN: TOKEN })).toBe('');
    for (const host of ['127.0.0.1', 'localhost', '::1', '127.1.2.3']) expect(whyNot({ TRABES_HOST: host })).toBe('');
    for (const port of ['abc', '-1', '70000', '4600x', ''])
      expect(whyNot({ TRABES_PORT: port })).toContain('a port is');
  });

  test('say where a browser finds the server', () => {
    expect(addressOf({ host: '0.0.0.0', port: 1 })).toBe('http://localhost:1');
    expect(addressOf({ host: '::1', port: 2 })).toBe('http://[::1]:2');
    expect(addressOf({ host: '127.0.0.1', port: 3 })).toBe('http://127.0.0.1:3');
  });
});
