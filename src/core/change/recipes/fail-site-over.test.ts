import { newIds } from '../../estate/new-ids';
import { compacted } from '../../estate/effects';
import { setFault } from '../../lab/faults';
import { planChange } from '../plan';
import { HOUR, MINUTE } from '../../units/duration';
import { basis, named } from '../../../../demo/workbench';
import { copying } from '../../../../demo/replicated';
import type { Stage } from '../../../../demo/protected';

const rota = [
  { do: 'workload.create', name: 'Rota' },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'rota', size: '20 GiB', workload: 'Rota' },
  {
    do: 'replication.create',
    workload: 'Rota',
    to: 'lintel-2',
    pool: 'quay',
    link: 'dark fibre',
    rpo: '30 min',
    tier: 1,
  },
  { do: 'replication.configure', replication: 'Ticketing', tier: 2 },
];
const over = { do: 'site.fail-over', site: 'Nordkai', fence: 'array-off', confirm: 'nordkai' };
function lost(...more: Parameters<typeof copying>): Stage {
  const at = copying(...more);
  at.pass(HOUR);
  const done = setFault(at.estate, 'site-down', named(at.estate, 'site', 'Nordkai').id, at.now, newIds('lost'));
  if (done.ok) at.estate.apply(compacted(done.effects));
  at.pass(MINUTE);
  return at;
}
const plan = (at: Stage, operation: object) =>
  planChange(at.estate, [operation as never], { ...basis, now: at.now, seed: 'over' });

test('what is copied from a lost site comes back at the other, turn after turn', () => {
  const at = lost(...rota);
  const { steps, refusals } = plan(at, over);
  expect(refusals).toEqual([]);
  expect(steps.map(({ title }) => title.split(',')[0])).toEqual([
    'Molenhaven serves Rota',
    'Molenhaven serves Ticketing',
  ]);
  at.run(over);
  for (const name of ['Rota', 'Ticketing'])
    expect(named(at.estate, 'replication', name)).toMatchObject({
      state: 'failed-over',
      accessS: 'yes',
      accessP: 'unknown',
    });
  expect(plan(at, over).refusals).toMatchObject([{ code: 'nothing-to-fail-over' }]);
});

test('its name must be typed, and something must come from there', () => {
  const at = lost();
  expect(plan(at, { ...over, confirm: 'Oever' }).refusals).toMatchObject([
    { code: 'site-confirm-fail-over', field: 'confirm' },
  ]);
  expect(plan(at, { ...over, site: 'Oever', confirm: 'Oever' }).refusals).toMatchObject([
    { code: 'nothing-to-fail-over', field: 'site' },
  ]);
});

test('a site that still answers is closed', () => {
  const at = copying();
  at.pass(HOUR);
  at.run(over);
  expect(named(at.estate, 'replication', 'Ticketing')).toMatchObject({ state: 'failed-over', accessP: 'no' });
});
