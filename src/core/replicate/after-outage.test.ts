import { newIds } from '../estate/new-ids';
import { setFault } from '../lab/faults';
import { HOUR, MINUTE } from '../units/duration';
import { named } from '../../../demo/workbench';
import { copying, elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { after } from '../whatif/outage';
import { componentsOf, findComponent } from '../whatif/components';
import { replicationsHurt } from './after-outage';

const what = (at: Stage, ...failed: string[]) =>
  replicationsHurt(
    at.estate,
    after(
      at.estate,
      failed.map((name) => findComponent(componentsOf(at.estate), name)!),
    ),
    at.now,
  );
const ready = (...more: Parameters<typeof copying>): Stage => {
  const at = copying(...more);
  at.pass(HOUR);
  return at;
};

test('what a lost line, array or site would do to a replication, before it happens', () => {
  const at = ready();
  expect(what(at)).toEqual([]);
  expect(what(at, 'dark fibre')).toMatchObject([
    { name: 'Ticketing', verdict: 'breaks-off', says: 'breaks off, dark fibre is down; hosts at Nordkai go on' },
  ]);
  expect(what(at, 'lintel-2')[0]).toMatchObject({ verdict: 'breaks-off' });
  expect(what(at, 'Nordkai')[0]!.says).toMatch(/^back to .* at Molenhaven; .* lost$/);
  expect(what(at, 'Nordkai', 'Molenhaven')).toMatchObject([{ verdict: 'nothing' }]);
  expect(what(at, 'purlin-1')).toEqual([]);
});

test('of a mirror nothing is lost, and its hosts wait where they are to', () => {
  const { rpo: _rpo, interval: _interval, ...where } = replicate;
  const at = stage(...elsewhere, { ...where, mode: 'sync', onLoss: 'fence' });
  at.pass(HOUR);
  expect(what(at, 'lintel-1')[0]!.says).toMatch(/; nothing lost$/);
  expect(what(at, 'dark fibre')[0]!.says).toMatch(/; hosts at Nordkai wait$/);
});

test('what is foretold is what comes', () => {
  const at = ready();
  const [foretold] = what(at, 'dark fibre');
  const done = setFault(
    at.estate,
    'site-link-down',
    named(at.estate, 'siteLink', 'dark fibre').id,
    at.now,
    newIds('after'),
  );
  if (done.ok) at.estate.apply(done.effects);
  at.pass(MINUTE);
  expect(named(at.estate, 'replication', 'Ticketing').state).toBe('broken');
  expect(foretold!.says).toContain(named(at.estate, 'replication', 'Ticketing').reason);
  // What has come already hurts no more.
  expect(what(at, 'dark fibre')).toEqual([]);
});
