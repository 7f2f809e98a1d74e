import { basis, carryOut, estateAfter, mapped, mounted, named } from '../../../demo/workbench';
import { wholePages } from '../content/page';
import { contextFor } from '../change/plan';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { brokenRules } from '../rules/book';
import { GIB, KIB, MIB } from '../units/bytes';
import { oneIo, type OneIo } from './one-io';

const newId = contextFor(basis, 7, 7).newId;
const found = [...mapped, { do: 'host.rescan', host: 'gate-1' }];
const deviceOf = (estate: Estate) =>
  estate.table('hostDevice').by('volume', named(estate, 'volume', 'tickets-1').id)[0]!;
const io = (estate: Estate, wish: OneIo) => oneIo(estate, deviceOf(estate), wish, basis.now, newId);
const codeOf = (estate: Estate, wish: OneIo) => {
  const answer = io(estate, wish);
  return answer.ok ? 'done' : `${answer.refusal.code} ${answer.refusal.field ?? ''}`.trim();
};
const write = (at: number, size: number): OneIo => ({ kind: 'write', at, size });
const read = (at: number, size: number): OneIo => ({ kind: 'read', at, size });

test('a write takes the extents it needs, and is told with its path; a read changes nothing', () => {
  const estate = estateAfter(found);
  const answer = io(estate, write(GIB, 8 * KIB));
  expect(answer).toMatchObject({
    ok: true,
    said: expect.stringMatching(/^gate-1 wrote 8 KiB at 1 GiB of tickets-1 by eth\d to [ab]\d$/) as string,
  });
  if (answer.ok) estate.apply(answer.effects);
  expect(brokenRules(estate)).toEqual([]);
  expect(named(estate, 'volume', 'tickets-1').written).toBe(wholePages(GIB + 8 * KIB));
  expect(io(estate, read(0, MIB))).toMatchObject({ ok: true, effects: [] });
});

test('what reaches beyond the end is refused whole, to the byte', () => {
  const estate = estateAfter(found);
  const { size } = named(estate, 'volume', 'tickets-1');
  expect(codeOf(estate, write(size - 512, 512))).toBe('done');
  expect(codeOf(estate, write(size - 512, 1024))).toBe('beyond-end size');
  expect(codeOf(estate, read(size, 512))).toBe('beyond-end at');
  const answer = io(estate, read(size - 4096, 8192));
  expect(answer).toMatchObject({ ok: false, refusal: { mend: '4 KiB are left there at most.' } });
});

test('parts of sectors, nothing at all, a device that is offline, and one that carries data', () => {
  const estate = estateAfter(found);
  expect(codeOf(estate, read(1, 512))).toBe('not-whole-sectors at');
  expect(codeOf(estate, read(0, 0))).toBe('not-whole-sectors size');
  expect(codeOf(estate, read(0, 513))).toBe('not-whole-sectors size');
  estate.apply([changed('hostDevice', deviceOf(estate), { state: 'offline' })]);
  expect(codeOf(estate, read(0, 512))).toBe('device-offline');
  const full = estateAfter(mounted);
  expect(codeOf(full, write(0, 512))).toBe('holds-data');
  expect(codeOf(full, read(0, 512))).toBe('done');
});

test('who may only read is refused to write; without a path or a mapping nothing goes', () => {
  const estate = estateAfter(found);
  const volume = named(estate, 'volume', 'tickets-1');
  const mapping = estate.table('mapping').by('volume', volume.id)[0]!;
  estate.apply([changed('mapping', mapping, { access: 'read-only' })]);
  expect([codeOf(estate, write(0, 512)), codeOf(estate, read(0, 512))]).toEqual(['read-only', 'done']);
  for (const row of estate.table('interface').by('host', named(estate, 'host', 'gate-1').id))
    estate.apply([changed('interface', row, { state: 'down' })]);
  expect(codeOf(estate, read(0, 512))).toBe('no-path');
  const gone = estateAfter(found);
  carryOut(gone, [{ do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] }], 'gone');
  const device = gone.table('hostDevice').by('volume', volume.id)[0];
  if (device) expect(codeOf(gone, read(0, 512))).toBe('not-mapped');
});
