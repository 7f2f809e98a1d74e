import { estateAfter, mapped, targetOf } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { decodeLun, encodeLun, HIGHEST_LUN } from './lun-code';
import { pathEvents } from './path-events';

const before = estateAfter(mapped);

test('a port that goes down is noticed by silence over TCP, at the host at once', () => {
  const port = [...before.table('port').values()].find((row) => row.addresses[0]?.ip === '10.40.1.11')!;
  const after = new Overlay(before);
  after.apply([changed('port', port, { state: 'down' })]);
  expect(pathEvents(before, after, 1000)).toMatchObject([
    { at: 1000, port: port.id, after: 'down', noticedAfter: 15_000 },
  ]);
  const eth0 = [...before.table('interface').values()].find((row) => row.name === 'eth0')!;
  const pulled = new Overlay(before);
  pulled.apply([changed('interface', eth0, { state: 'down' })]);
  expect(pathEvents(before, pulled, 0).map((event) => event.noticedAfter)).toEqual([0, 0]);
});

test('when a controller fails its paths are lost and the partner’s become the best, and back', () => {
  const volume = [...before.table('volume').values()][0]!;
  const owner = before.table('controller').get(volume.owner)!;
  const after = new Overlay(before);
  after.apply([changed('controller', owner, { state: 'down' })]);
  expect(
    pathEvents(before, after, 0)
      .map((event) => event.after)
      .sort(),
  ).toEqual(['down', 'down', 'optimized', 'optimized']);
  expect(
    pathEvents(after, before, 0)
      .map((event) => event.after)
      .sort(),
  ).toEqual(['non-optimized', 'non-optimized', 'optimized', 'optimized']);
  expect(pathEvents(before, before, 0)).toEqual([]);
});

test('a restart ends every session and brings it back; taking it back does neither', () => {
  const host = [...before.table('host').values()].find((row) => row.name === 'gate-1')!;
  const after = new Overlay(before);
  after.apply([changed('host', host, { restarts: host.restarts + 1 })]);
  const events = pathEvents(before, after, 200_000);
  expect(events.filter((event) => event.after === 'down').map((event) => event.at)).toEqual([
    80_000, 80_000, 80_000, 80_000,
  ]);
  expect(events.filter((event) => event.before === 'down').map((event) => [event.at, event.reason])).toEqual(
    Array.from({ length: 4 }, () => [200_000, 'the host is back']),
  );
  expect(pathEvents(after, before, 0)).toEqual([]);
});

test('a demand that turns a host away ends its sessions, and says why', () => {
  const after = new Overlay(before);
  after.apply([changed('target', targetOf(before, 'lintel-1'), { auth: 'one-way' })]);
  expect([...new Set(pathEvents(before, after, 0).map((event) => event.reason))]).toEqual([
    'Authentication failed (0201): lintel-1 demands CHAP, and gate-1 has no secret.',
  ]);
});

test.each([
  [5, '0005000000000000'],
  [255, '00ff000000000000'],
  [300, '412c000000000000'],
  [70_000, 'd201117000000000'],
])('LUN %i is coded %s and read again', (lun, code) => {
  expect(encodeLun(lun)).toBe(code);
  expect(decodeLun(code)).toMatchObject({ ok: true, value: lun });
});

test('LUNs end where 24 bits end', () => {
  expect(encodeLun(HIGHEST_LUN)).toBe('d2ffffff00000000');
  for (const lun of [HIGHEST_LUN + 1, -1, 1.5]) expect(() => encodeLun(lun)).toThrow(RangeError);
});

test.each([
  ['0105000000000000', 'lun-bus-not-zero'],
  ['8000000000000000', 'lun-coding-unsupported'],
  ['12', 'lun-bad-code'],
  // A second level behind the first.
  ['0005000100000000', 'lun-coding-unsupported'],
  ['412c000000000001', 'lun-coding-unsupported'],
  ['d201117000000100', 'lun-coding-unsupported'],
])('%s is refused: %s', (code, reason) => expect(decodeLun(code)).toMatchObject({ ok: false, reason }));
