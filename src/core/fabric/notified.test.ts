import { demoEstate } from '../../../demo/scenario';
import { named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { trace } from '../trace/trace';
import { notified, notifiedWords } from './notified';

const { estate } = demoEstate();
const fabric = named(estate, 'fabric', 'A').id;
const zone = [...estate.table('activeZone').values()].find(
  (one) => one.fabric === fabric && one.name.startsWith('cargo-db-1'),
)!;

test('a change of zones is told to the ports whose partners it changes, and to nobody else', () => {
  const told = notified(estate, fabric, [changed('activeZone', zone, { members: zone.members.slice(0, 1) })]);
  expect(told.map((device) => `wwpn:${device.wwpn}`).sort()).toEqual([...zone.members].sort());
  expect(notifiedWords(told)).toMatch(
    /^\d+ ports are told that whom they may meet has changed \(RSCN\): cargo-db-1 hba0, /,
  );
});

test('what changes nobody’s partners is told to nobody', () => {
  expect(notified(estate, fabric, [changed('activeZone', zone, { name: 'other' })])).toEqual([]);
  expect(notifiedWords([])).toBe('');
});

test('a trace names the zone member that is a digit off, and offers to correct it where it stands in a zone', () => {
  const { estate: wrong } = demoEstate();
  const host = named(wrong, 'host', 'cargo-db-1');
  const own = wrong
    .table('interface')
    .by('host', host.id)
    .find((row) => row.name === 'hba0')!;
  const member = `wwpn:${own.wwpn}`;
  const slip = `${member.slice(0, -1)}${member.endsWith('0') ? '1' : '0'}`;
  const change = (row: { members: string[] }) => ({ members: row.members.map((one) => (one === member ? slip : one)) });
  const active = [...wrong.table('activeZone').values()].filter((row) => row.members.includes(member));
  for (const row of active) wrong.apply([changed('activeZone', row, change(row))]);
  const hop = () => {
    const mapping = wrong.table('mapping').by('host', host.id)[0]!;
    const volume = wrong.table('volume').get(mapping.volume)!;
    return trace(wrong, host, volume).hops.find((one) => one.reason === 'not-zoned')!;
  };
  expect(hop().evidence).toMatch(/cargo-db-1_hba0\S* holds [0-9a-f:]{23}, which is one digit off [0-9a-f:]{23}\./);
  const zone = wrong
    .table('zone')
    .by('fabric', active[0]!.fabric)
    .find((row) => row.name === active[0]!.name)!;
  wrong.apply([changed('zone', zone, { members: active[0]!.members.map((one) => (one === member ? slip : one)) })]);
  expect(hop().mend).toMatchObject({ do: 'zone.configure', params: { fabric: 'A', name: zone.name } });
  expect((hop().mend!.params.members as string[]).includes(member)).toBe(true);
});
