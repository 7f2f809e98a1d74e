import { changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { HOUR, MINUTE } from '../units/duration';
import { lines } from '../../../demo/elsewhere';
import type { Stage } from '../../../demo/protected';
import { stretched, uniform } from '../../../demo/stretched';
import { named } from '../../../demo/workbench';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { stretchChecks } from './stretch-checks';

const sound = (): Stage => stretched(...lines.filter(({ name }) => name === 'leased line'));
const fault = (at: Stage, kind: FaultKind, id: string, up = false) => {
  const done = (up ? clearFault : setFault)(at.estate, kind, id, at.now, newIds(`fault ${at.now}`));
  if (!done.ok) throw new Error(done.refusals[0]!.message);
  at.estate.apply(done.effects);
  at.pass(1000);
};
const site = (at: Stage, name: string, up = false) => fault(at, 'site-down', named(at.estate, 'site', name).id, up);
const line = (at: Stage, name: string, up = false) =>
  fault(at, 'site-link-down', named(at.estate, 'siteLink', name).id, up);
const witness = (at: Stage, up = false) => fault(at, 'witness-down', named(at.estate, 'witness', 'oever-1').id, up);
const ports = (at: Stage, state: 'up' | 'down') => {
  const { id } = named(at.estate, 'array', 'lintel-2');
  at.estate.apply(
    at.estate
      .table('port')
      .by('array', id)
      .filter(({ role }) => role === 'fc')
      .map((port) => changed('port', port, { state })),
  );
};

const cases: Cases = {
  'stretched-one-side': {
    make: (at) => {
      line(at, 'dark fibre');
      at.pass(6 * MINUTE);
    },
    mend: (at) => {
      line(at, 'dark fibre', true);
      at.pass(30 * MINUTE);
    },
  },
  'stretched-silent': {
    make: (at) => {
      witness(at);
      at.pass(MINUTE);
      site(at, 'Nordkai');
      at.pass(MINUTE);
    },
    mend: (at) => {
      site(at, 'Nordkai', true);
      at.pass(MINUTE);
    },
  },
  'stretched-no-witness': { make: (at) => witness(at), mend: (at) => witness(at, true) },
  'stretched-witness-blind-side': {
    make: (at) => {
      line(at, 'Molenhaven to Oever');
      at.pass(6 * MINUTE);
    },
    mend: (at) => line(at, 'Molenhaven to Oever', true),
  },
  'stretched-register-behind': {
    make: (at) => {
      // It decides for Nordkai, and is gone before both serve again.
      line(at, 'dark fibre');
      at.pass(MINUTE);
      witness(at);
      line(at, 'dark fibre', true);
      at.pass(30 * MINUTE);
    },
    mend: (at) => {
      witness(at, true);
      at.pass(MINUTE);
    },
  },
  'stretched-witness-domain': {
    make: (at) =>
      at.estate.apply([
        changed('witness', named(at.estate, 'witness', 'oever-1'), { site: named(at.estate, 'site', 'Nordkai').id }),
      ]),
    mend: (at) => at.run({ do: 'witness.configure', witness: 'oever-1', site: 'Oever' }),
  },
  'stretched-host-one-site': { make: (at) => ports(at, 'down'), mend: (at) => ports(at, 'up') },
  'stretched-one-site-mapped': {
    make: (at) => at.run({ do: 'mapping.delete', host: 'deck-3', array: 'lintel-2', volumes: ['stores-leg'] }),
    mend: (at) => at.run(...uniform),
  },
};

appearAndGo(stretchChecks, cases, sound);

test('paths to the far leg are no fault', () => {
  expect(found(sound(), 'no-optimized-path')).toEqual([]);
});

test('while they are still asking, nobody is called', () => {
  const at = sound();
  site(at, 'Nordkai');
  expect(found(at, 'stretched-silent')).toEqual([]);
  at.pass(HOUR);
  expect(found(at, 'stretched-one-side')[0]!.says).toBe('Only Molenhaven serves Virtual deck.');
});
