import { named } from '../../../demo/workbench';
import { stage } from '../../../demo/protected';
import { areaBytes, copiesOf } from '../copies/area';
import { changed } from '../estate/effects';
import { MIB } from '../units/bytes';
import { DAY, HOUR } from '../units/duration';
import { copyNow, points, tickets, set, whole, unmount, file } from './operations.fixture';

describe('going back', () => {
  const back = { do: 'snapshot.restore', workload: 'Ticketing', copy: 'one' };

  test('waits for its hosts, brings the files of that moment, and can be gone back on', () => {
    const at = stage();
    file(at, 'fares.db', 100 * MIB);
    at.run({ ...copyNow, name: 'one' });
    at.pass(HOUR);
    file(at, 'fares.db', null);
    file(at, 'gates.conf', MIB);
    expect(at.codes(back)).toEqual(['restore-hosts-active']);
    at.run(unmount, back);
    expect(tickets(at).files.map((one) => one.path)).toEqual(['fares.db']);
    whole(at);
    const safety = points(at).at(-1)!;
    expect(safety.name).toMatch(/^before-/);
    at.run({ ...back, copy: safety.name });
    expect(tickets(at).files.map((one) => one.path)).toEqual(['gates.conf']);
    whole(at);
  });

  test('without a safety copy keeps nothing of what was written since', () => {
    const at = stage({ ...copyNow, name: 'one' }, unmount);
    at.run({ ...back, safety: false });
    expect(points(at)).toHaveLength(1);
    expect(at.codes({ ...back, safety: true })).toEqual([]);
  });

  test('to a copy that reaches beyond the volume is refused with the size that would do', () => {
    const at = stage({ ...copyNow, name: 'one' }, unmount);
    at.estate.apply([changed('snapshot', points(at)[0]!.copies[0]!, { written: 2 ** 40, size: 2 ** 40 })]);
    expect(at.codes(back)).toContain('restore-size-differs');
  });
});

describe('clones and views', () => {
  const clone = { do: 'snapshot.clone', array: 'lintel-1', volume: 'tickets-1', copy: 'one', name: 'trial', count: 3 };

  test('take no room, share what they show, and keep their copy from going', () => {
    const at = stage({ ...copyNow, name: 'one' });
    const before = areaBytes(at.estate, tickets(at));
    at.run(clone);
    expect(areaBytes(at.estate, tickets(at))).toBe(before);
    expect(at.codes({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] })).toEqual(['snapshot-held']);
    expect(at.codes({ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'] })).toContain('base-has-clones');
    expect(at.codes({ do: 'volume.convert', array: 'lintel-1', volumes: ['trial-1'], to: 'thick' })).toContain(
      'clone-shares',
    );
    expect(at.codes({ ...clone, name: 'tickets-2', count: 1 })).toEqual(['name-taken']);
    const names = new Set([...at.estate.table('volume').values()].map((row) => row.naa));
    expect(names.size).toBe(at.estate.table('volume').size);
    whole(at);
    at.run({ do: 'volume.detach', array: 'lintel-1', volumes: ['trial-1'] });
    expect(named(at.estate, 'volume', 'trial-1')).toMatchObject({ origin: null, written: tickets(at).written });
    at.run({
      do: 'volume.delete',
      array: 'lintel-1',
      volumes: ['trial-2', 'trial-3'],
      confirm: ['trial-2', 'trial-3'],
      keepDays: 0,
    });
    at.run({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] });
    whole(at);
  });

  test('of what stands there now a base is cut first, which stays while they rest on it', () => {
    const at = stage();
    at.run({ do: 'snapshot.clone', array: 'lintel-1', volume: 'tickets-1', name: 'desk', count: 2 });
    const [base] = copiesOf(at.estate, tickets(at).id);
    expect(base!.name).toMatch(/^base-/);
    expect(named(at.estate, 'volume', 'desk-2')).toMatchObject({ base: base!.id, origin: tickets(at).id });
    expect(at.codes({ do: 'snapshot.delete', array: 'lintel-1', volume: 'tickets-1', copies: [base!.name] })).toEqual([
      'snapshot-held',
    ]);
    whole(at);
  });

  test('a clone takes the place of its origin where nothing is copied, and lets it go', () => {
    const at = stage({ ...copyNow, name: 'zero' });
    at.pass(DAY);
    at.run({ ...copyNow, name: 'one' }, clone, { ...copyNow, name: 'two' });
    at.pass(DAY);
    const held = () => {
      const { occupancy } = at.estate;
      return [...at.estate.table('raidGroup').values()].reduce((sum, group) => sum + occupancy.used(group.id), 0);
    };
    const places = () => new Set([...at.estate.table('extent').values()].map((run) => run.raidGroup));
    const [before, lay] = [held(), places()];
    at.run({ do: 'volume.promote', array: 'lintel-1', volume: 'trial-2' });
    const trial = named(at.estate, 'volume', 'trial-2');
    expect(trial).toMatchObject({ origin: null });
    expect(tickets(at).origin).toBe(trial.id);
    expect(named(at.estate, 'volume', 'trial-1').origin).toBe(trial.id);
    // Rounding to whole extents may move one.
    expect(Math.abs(held() - before)).toBeLessThanOrEqual(1);
    expect(places()).toEqual(lay);
    expect(copiesOf(at.estate, trial.id).map(({ name }) => name)).toEqual(['zero', 'one']);
    expect(copiesOf(at.estate, tickets(at).id).map(({ name }) => name)).toEqual(['two']);
    whole(at);
    at.run({ do: 'snapshot.delete', array: 'lintel-1', volume: 'tickets-1', copies: ['two'] });
    at.run(
      unmount,
      { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] },
      { do: 'host.rescan', host: 'gate-1' },
      { do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], confirm: ['tickets-1'], keepDays: 0 },
    );
    expect(named(at.estate, 'volume', 'tickets-1')).toBeUndefined();
    expect(named(at.estate, 'volume', 'trial-2').written).toBeGreaterThan(0);
    whole(at);
  });

  test('a promotion that would break a lock, a name or a thick origin is refused', () => {
    const at = stage({ ...copyNow, name: 'one' }, clone);
    const promote = { do: 'volume.promote', array: 'lintel-1', volume: 'trial-1' };
    set(at, points(at)[0]!.copies, { lockedUntil: at.now + DAY });
    expect(at.codes(promote)).toEqual(['snapshot-locked']);
    set(at, points(at)[0]!.copies, { hold: 'audit' });
    expect(at.codes(promote)).toEqual(['snapshot-held']);
    set(at, points(at)[0]!.copies, { hold: '', lockedUntil: null });
    at.run({ do: 'snapshot.create', array: 'lintel-1', volume: 'trial-1', name: 'one' });
    expect(at.codes(promote)).toEqual(['name-taken']);
    expect(at.codes({ ...promote, volume: 'tickets-1' })).toEqual(['no-clone']);
    at.estate.apply([changed('volume', tickets(at), { provisioning: 'thick' })]);
    expect(at.codes({ ...promote, volume: 'trial-2' })).toEqual(['origin-thick']);
  });

  test('a shown copy is a device with its files; one is taken out, and it is hidden again', () => {
    const at = stage();
    file(at, 'fares.db', 100 * MIB);
    at.run({ ...copyNow, name: 'one' });
    const [sum] = tickets(at).files.map((one) => one.checksum);
    file(at, 'fares.db', null);
    at.run({ do: 'copy.show', array: 'lintel-1', volume: 'tickets-1', copy: 'one', host: 'gate-1' });
    const view = named(at.estate, 'volume', 'tickets-1-of-one');
    expect(view).toMatchObject({ view: true, written: points(at)[0]!.copies[0]!.written });
    at.run({ do: 'host-device.take-file', host: 'gate-1', device: view.name, path: 'fares.db', to: 'tickets-1' });
    expect(tickets(at).files).toMatchObject([{ path: 'fares.db', checksum: sum }]);
    at.run({ do: 'copy.hide', host: 'gate-1', array: 'lintel-1', volumes: [view.name] });
    expect(named(at.estate, 'volume', view.name)).toBeUndefined();
    expect(copiesOf(at.estate, tickets(at).id)).toHaveLength(1);
    whole(at);
  });

  test('a copy is proven where nobody works with the data', () => {
    const at = stage({ ...copyNow, name: 'one' });
    const prove = { do: 'snapshot.validate', array: 'lintel-1', volume: 'tickets-1', copy: 'one' };
    expect(at.codes({ ...prove, host: 'gate-1' })).toEqual(['host-not-apart']);
    at.run(
      {
        do: 'host.create',
        name: 'proof-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['iqn.2031-04.example.skarholt:proof-1'],
      },
      { ...prove, host: 'proof-1' },
    );
    const [copy] = copiesOf(at.estate, tickets(at).id);
    expect(copy!.verdict).toMatchObject({ good: true, host: 'proof-1' });
    const [empty] = copiesOf(at.estate, named(at.estate, 'volume', 'tickets-2').id);
    at.estate.apply([changed('snapshot', empty!, { written: MIB })]);
    at.run({ ...prove, volume: 'tickets-2', host: 'proof-1' });
    expect(at.estate.table('snapshot').get(empty!.id)!.verdict).toMatchObject({ good: false });
  });
});
