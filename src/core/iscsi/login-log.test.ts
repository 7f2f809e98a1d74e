import { estateAfter, mapped, targetOf } from '../../../demo/workbench';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { Overlay } from '../estate/estate';
import { lookUp } from '../operation/inquiry';
import { testLogin, type LoginTools } from './login-log';

const base = estateAfter(mapped);
const secrets: Record<string, string> = { one: 'tide tables 2031', two: 'harbour master!', wrong: 'something else 1' };
let turn = 0;
const tools: LoginTools = {
  secret: (print) => (secrets[print] ? new TextEncoder().encode(secrets[print]) : null),
  random: (octets) => Uint8Array.from({ length: octets }, (_, k) => (k * 37 + turn++) % 256),
};

function run(of: {
  auth?: 'none' | 'one-way' | 'mutual';
  host?: string | null;
  record?: string | null;
  target?: string | null;
  array?: string | null;
  presents?: string;
  server?: 'up' | 'down';
}) {
  const view = new Overlay(base);
  const host = lookUp(base, 'host', 'gate-1')!;
  const target = targetOf(base, 'lintel-1');
  const initiator = base.table('initiator').by('host', host.id)[0]!;
  if (of.server)
    view.apply([
      created(
        'authServer',
        rowOf('authServer', {
          id: 'auth_1',
          name: 'proof-1',
          ip: '10.40.9.9',
          state: of.server,
          accounts: [{ name: initiator.name, secret: of.record ?? '' }],
        }),
      ),
    ]);
  view.apply([
    changed('host', host, {
      chapSecret: of.host ?? null,
      targetSecret: of.target ?? null,
      presents: of.presents ?? host.presents,
    }),
    changed('target', target, {
      auth: of.auth ?? 'none',
      chapSecret: of.array ?? null,
      authServer: of.server ? 'auth_1' : null,
    }),
    changed('initiator', initiator, { chapSecret: of.server ? null : (of.record ?? null) }),
  ]);
  return testLogin(view, view.table('host').get(host.id)!, view.table('target').get(target.id)!, tools);
}

test.each([
  ['without proof', {}, '0000'],
  ['one way', { auth: 'one-way', host: 'one', record: 'one' }, '0000'],
  ['both ways', { auth: 'mutual', host: 'one', record: 'one', target: 'two', array: 'two' }, '0000'],
  ['against a server', { auth: 'one-way', host: 'one', record: 'one', server: 'up' }, '0000'],
  ['a server that is down', { auth: 'one-way', host: 'one', record: 'one', server: 'down' }, '0301'],
  ['no secret at the host', { auth: 'one-way', record: 'one' }, '0201'],
  ['another secret', { auth: 'one-way', host: 'wrong', record: 'one' }, '0201'],
  ['no secret on record', { auth: 'one-way', host: 'one' }, '0201'],
  ['the array’s secret differs', { auth: 'mutual', host: 'one', record: 'one', target: 'two', array: 'wrong' }, '0201'],
  ['a name off by a letter', { presents: 'iqn.2031-04.example.skarholt:gaet-1' }, '0202'],
] as const)('%s ends with status %3$s', (_what, of, status) => {
  const outcome = run(of);
  expect([outcome.status, outcome.ok]).toEqual([status, status === '0000']);
  expect(outcome.log[0]).toMatchObject({ side: 'host' });
  expect(new Set(outcome.log.map((line) => line.side))).toEqual(new Set(['host', 'array']));
  // No secret is ever written down.
  const text = JSON.stringify(outcome);
  for (const secret of Object.values(secrets)) expect(text).not.toContain(secret);
});

test('the challenge and its answer go over the wire, and a wrong answer is told on the array’s side', () => {
  const good = run({ auth: 'one-way', host: 'one', record: 'one' }).log.map((line) => line.says);
  expect(good.some((line) => /CHAP_A=7 \(SHA-256\), CHAP_I=\d+, CHAP_C=0x[0-9a-f]{32}/.test(line))).toBe(true);
  expect(good.some((line) => /CHAP_N=iqn.*CHAP_R=0x[0-9a-f]{64}/.test(line))).toBe(true);
  const bad = run({ auth: 'one-way', host: 'wrong', record: 'one' });
  expect(bad.says).toContain('the secret differs');
  expect(bad.log.find((line) => line.says.includes('Refused'))?.side).toBe('array');
});

test('a slip of the pen is recognised', () =>
  expect(run({ presents: 'iqn.2031-04.example.skarholt:gaet-1' }).says).toContain('differs'));
