import { euiOf, makeNaa, nguidOf, uuidOf } from './identity';
import { parseNvmeIdentity, type NvmeIdentityKind } from './nvme-identity';

const naa = makeNaa('0a51c1', 'scanner');
const [eui, nguid, uuid] = [euiOf(naa), nguidOf(naa), uuidOf(naa)];
const read = (text: string, wanted?: NvmeIdentityKind) => {
  const result = parseNvmeIdentity(text, wanted);
  return result.ok ? `${result.value.kind} ${result.value.text}` : result.reason;
};
const pairs = (digits: string, by: string, size = 2) => digits.match(new RegExp(`.{${size}}`, 'g'))!.join(by);

test('every spelling of one identity reads the same', () => {
  for (const text of [
    eui,
    `eui.${eui}`,
    `0x${eui.toUpperCase()}`,
    pairs(eui, ':'),
    pairs(eui, '-'),
    ` EUI64 ${eui} `.replace('64 ', '-64: '),
  ])
    expect(read(text)).toBe(`EUI-64 ${eui}`);
  for (const text of [
    nguid,
    `eui.${nguid}`,
    `nguid.${nguid}`,
    `0x${nguid}`,
    pairs(nguid, '-', 4),
    pairs(nguid, ' '),
    pairs(nguid, '.', 8),
  ])
    expect(read(text)).toBe(`NGUID ${nguid}`);
  for (const text of [uuid, uuid.toUpperCase(), `{${uuid}}`, `urn:uuid:${uuid}`, `uuid.${uuid.replaceAll('-', '')}`])
    expect(read(text)).toBe(`UUID ${uuid}`);
  expect(read(uuid.replaceAll('-', ''), 'UUID')).toBe(`UUID ${uuid}`);
});

test.each([
  ['', 'empty'],
  ['  ', 'empty'],
  [`${eui.slice(1)}g`, 'bad-char'],
  [`${eui}\u200b`, 'bad-char'],
  ['12:345:6', 'bad-grouping'],
  [`${pairs(eui, ':').slice(0, 8)}-${eui.slice(6)}`, 'bad-grouping'],
  [eui.slice(1), 'wrong-length'],
  [`${nguid}0`, 'wrong-length'],
  [nguid.slice(0, 20), 'wrong-length'],
  ['uuid.1', 'wrong-length'],
  ['0'.repeat(16), 'not-reported'],
  ['0'.repeat(32), 'not-reported'],
  ['00000000-0000-0000-0000-000000000000', 'not-reported'],
])('%s is refused: %s', (text, reason) => expect(read(text)).toBe(reason));

test('one kind where another is asked for is said so, and positions count from the beginning of what was typed', () => {
  expect(read(`eui.${eui}`, 'NGUID')).toBe('another-kind');
  expect(read(eui, 'NGUID')).toBe('wrong-length');
  const failure = parseNvmeIdentity('  eui.0a51zz');
  expect(failure).toMatchObject({ ok: false, at: 9 });
});

test('the maker stands first in an EUI-64, behind the extension in an NGUID, nowhere in a UUID', () => {
  const maker = (text: string) => {
    const result = parseNvmeIdentity(text);
    return result.ok && result.value.companyId;
  };
  expect([maker(eui), maker(nguid), maker(uuid)]).toEqual(['0a51c1', '0a51c1', null]);
});
