import { chapResponse, checkSecret, chosenAlgorithm, judged, proveBy, secretOctets, type ChapSide } from './chap';

const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');
const octets = (text: string) => Uint8Array.from(Buffer.from(text, 'hex'));
const challenge = octets('00112233445566778899aabbccddeeff');
const secret = secretOctets('north-gate-2031!')!;

test.each([
  [5, '4a62800b2829c825183bdd268387ec9e'],
  [6, '0fac84b6ee59bf2d5f5e593ddaedecf01dcafa39'],
  [7, '6930c0d74586cedf154c8067248bb003f8b8b17fa7da1bc7f8e3424779ac8498'],
] as const)('algorithm %i answers as the standards compute it', (algorithm, response) =>
  expect(hex(chapResponse(algorithm, 0x17, secret, challenge))).toBe(response),
);

test.each([
  ['short', 'secret-too-short'],
  ['0x00112', 'secret-bad-hex'],
  ['0xzz', 'secret-bad-hex'],
  ['x'.repeat(256), 'secret-too-long'],
])('%s is refused: %s', (text, reason) => expect(checkSecret(text)).toMatchObject({ ok: false, reason }));

test('a secret of twelve octets will do, also as hexadecimal', () => {
  expect(checkSecret('twelve-chars').ok).toBe(true);
  expect(checkSecret('0x00112233445566778899aabb').ok).toBe(true);
  expect(hex(secretOctets('0x0a0B')!)).toBe('0a0b');
});

const prover: ChapSide = { algorithms: [7, 5], name: 'gate-1', secret };
const judge = { algorithms: [5, 6, 7] as const, secretOf: (name: string) => (name === 'gate-1' ? secret : null) };

test('the first algorithm offered that is supported is taken', () => {
  expect(chosenAlgorithm([7, 5], [5, 6])).toBe(5);
  expect(chosenAlgorithm([7, 5], [5, 7])).toBe(7);
  expect(chosenAlgorithm([6], [5])).toBeNull();
});

test('an exchange that holds', () =>
  expect(proveBy(prover, judge, 1, challenge)).toMatchObject({ ok: true, exchange: { algorithm: 7 } }));

test('reasons in their order', () => {
  const why = (outcome: { ok: boolean; reason?: string }) => (outcome.ok ? 'ok' : outcome.reason);
  expect(why(proveBy({ ...prover, algorithms: [6] }, { ...judge, algorithms: [5] }, 1, challenge))).toBe(
    'algorithm-none-common',
  );
  expect(why(proveBy({ ...prover, name: 'gate-9' }, judge, 1, challenge))).toBe('unknown-chap-name');
  expect(why(proveBy({ ...prover, secret: secretOctets('another-secret-1') }, judge, 1, challenge))).toBe(
    'response-mismatch',
  );
  const good = proveBy(prover, judge, 1, challenge);
  if (!good.ok) throw new Error('must hold');
  expect(why(judged({ ...good.exchange, response: good.exchange.response.slice(1) }, 'gate-1', judge))).toBe(
    'response-length',
  );
  expect(why(judged(good.exchange, 'gate-1', judge, { ...good.exchange, response: challenge }))).toBe(
    'challenge-reflected',
  );
  expect(why(judged(good.exchange, 'gate-1', judge, { ...good.exchange, challenge: octets('ff') }))).toBe(
    'response-reflected',
  );
  // The other side only sent back what the judge itself would have answered.
  const own = secretOctets('what-the-judge-proves-itself-by')!;
  const mirror = proveBy({ ...prover, secret: own }, { ...judge, own }, 1, challenge);
  expect(why(mirror)).toBe('response-reflected');
  expect(why(proveBy(prover, { ...judge, own }, 1, challenge))).toBe('ok');
});
