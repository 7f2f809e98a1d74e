import type { Stage } from '../../../demo/protected';
import { copying } from '../../../demo/replicated';
import { named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { HOUR } from '../units/duration';
import { siteLost } from './site-lost';
import { siteLostReport } from './site-lost-report';

const verdicts = ({ estate, now }: Stage) => {
  const { sites, rows } = siteLost(estate, now);
  const ticketing = rows.find(({ name }) => name === 'Ticketing')!;
  return Object.fromEntries(sites.map((site, k) => [site, ticketing.lost[k]!]));
};

test('before the first copy is whole nothing would be left; then it comes back to a moment', () => {
  const at = copying();
  expect(verdicts(at)).toMatchObject({
    Nordkai: { verdict: 'nothing', why: expect.stringContaining('first copy') as string },
    Molenhaven: { verdict: 'goes-on' },
  });
  at.pass(HOUR);
  const { pit } = named(at.estate, 'replication', 'Ticketing');
  expect(verdicts(at).Nordkai).toMatchObject({ verdict: 'back-to', site: 'Molenhaven', pit });
});

test('after a switch the other site is the one that must not be lost', () => {
  const at = copying();
  at.pass(HOUR);
  at.run(
    { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' },
    { do: 'replication.switch', replication: 'Ticketing', stopped: true },
  );
  expect(verdicts(at)).toMatchObject({
    Nordkai: { verdict: 'goes-on' },
    Molenhaven: { verdict: 'back-to', site: 'Nordkai' },
  });
  at.run({ do: 'replication.failover', replication: 'Ticketing', confirm: 'Ticketing', sourceStopped: true });
  expect(verdicts(at).Nordkai).toMatchObject({ verdict: 'nothing' });
});

test('a volume that joined its workload later is not forgotten', () => {
  const at = copying();
  at.pass(HOUR);
  at.run({
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'late',
    size: '10 GiB',
    workload: 'Ticketing',
  });
  expect(verdicts(at).Nordkai).toMatchObject({ verdict: 'nothing', why: 'late is not copied with the others' });
});

test('without a replication a site takes all with it', () => {
  const at = copying();
  at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
  expect(verdicts(at).Nordkai).toMatchObject({ verdict: 'nothing' });
  at.estate.apply([changed('workload', named(at.estate, 'workload', 'Ticketing'), { notes: 'still here' })]);
  expect(siteLost(at.estate, at.now).rows.map(({ at: where }) => where)).toEqual([['Nordkai']]);
});

test('the report tells what comes back in which turn, what is lost, and what goes on', () => {
  const at = copying();
  at.pass(HOUR);
  at.run({ do: 'replication.configure', replication: 'Ticketing', goal: '1 h', tier: 3 });
  const text = siteLostReport(at.estate, 'nordkai', at.now)!;
  expect(text).toContain('# Were Nordkai lost');
  expect(text).toMatch(/\| 3 \| Ticketing \| .* at Molenhaven, .* lost \| 1 h \| never rehearsed \|/);
  expect(siteLostReport(at.estate, 'Molenhaven', at.now)).toContain('- Ticketing');
  expect(siteLostReport(at.estate, 'Atlantis', at.now)).toBeNull();
  expect(text).not.toMatch(/undefined|NaN|null/);
});
