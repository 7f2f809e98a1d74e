import { planChange } from '@/core/change/plan';
import { changed } from '@/core/estate/effects';
import type { Estate } from '@/core/estate/estate';
import { slots } from '../../demo/names';
import { basis, estateAfter, mapped, mounted, smallChain } from '../../demo/workbench';
import { execute } from './stand-ins';

const stepOf = (estate: Estate, operation: { do: string; [name: string]: unknown }) =>
  planChange(estate, [operation], basis).steps[0]!;
const down = (estate: Estate, kind: 'controller' | 'interface', name: string) => {
  for (const row of estate.table(kind).values())
    if (row.name === name) estate.apply([changed(kind, row as never, { state: 'down' } as never)]);
};

describe('an array', () => {
  const carve = {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'late',
    size: '1 GiB',
    provisioning: 'thick',
  };

  test('takes orders while one controller is up, and none when both are down', () => {
    const estate = estateAfter(smallChain);
    const step = stepOf(estate, carve);
    expect(execute(estate, step)).toEqual({ ok: true });
    down(estate, 'controller', 'a');
    expect(execute(estate, step)).toEqual({ ok: true });
    down(estate, 'controller', 'b');
    expect(execute(estate, step)).toMatchObject({
      ok: false,
      refusal: { code: 'array-does-not-answer', subject: { name: 'lintel-1' } },
    });
  });

  test('gives an extent once, whatever an old plan says', () => {
    const estate = estateAfter(smallChain);
    const old = stepOf(estate, carve);
    const other = planChange(estate, [{ ...carve, name: 'first' }], { ...basis, seed: 'other' });
    estate.apply(other.steps[0]!.effects);
    expect(execute(estate, old)).toMatchObject({
      ok: false,
      refusal: { code: 'device-refuses', message: expect.stringContaining('taken twice') as string },
    });
  });

  test('gives a LUN to one volume, whatever an old plan says', () => {
    const estate = estateAfter(smallChain);
    const map = (volume: string, seed: string) =>
      planChange(estate, [{ do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: [volume], lun: 3 }], {
        ...basis,
        seed,
      }).steps[0]!;
    const old = map('tickets-1', 'old');
    estate.apply(map('tickets-2', 'first').effects);
    expect(execute(estate, old)).toMatchObject({
      ok: false,
      refusal: { code: 'device-refuses', message: 'gate-1 sees tickets-2 as LUN 3; tickets-1 cannot have it too.' },
    });
  });

  test('makes nothing twice, and changes nothing that is gone', () => {
    const estate = estateAfter(smallChain);
    const step = stepOf(estate, carve);
    estate.apply(step.effects);
    expect(execute(estate, step)).toMatchObject({
      ok: false,
      refusal: { message: expect.stringContaining('already') as string },
    });
    const retire = stepOf(estate, { do: 'volume.delete', array: 'lintel-1', volumes: ['late'] });
    estate.apply(retire.effects);
    expect(execute(estate, retire)).toMatchObject({
      ok: false,
      refusal: { message: expect.stringContaining('any more') as string },
    });
  });

  test('takes no failed drive into a group', () => {
    const estate = estateAfter([]);
    const step = stepOf(estate, {
      do: 'raid-group.create',
      array: 'lintel-1',
      name: 'rg-1',
      level: 'raid5',
      drives: slots(0, 0, 3),
    });
    const drive = step.effects.find((effect) => effect.kind === 'drive')!;
    estate.apply([changed('drive', estate.table('drive').get(drive.id)!, { state: 'failed' })]);
    expect(execute(estate, step)).toMatchObject({
      ok: false,
      refusal: { message: 'A drive of the new group has failed.' },
    });
  });
});

describe('a host', () => {
  const format = {
    do: 'host-device.format',
    host: 'gate-1',
    device: 'tickets-1',
    fileSystem: 'xfs',
    mountPoint: '/srv/tickets',
  };

  test('does not write through paths that are gone, but looks and lets go without any', () => {
    const estate = estateAfter([...mapped, { do: 'host.rescan', host: 'gate-1' }]);
    const step = stepOf(estate, format);
    expect(execute(estate, step)).toEqual({ ok: true });
    down(estate, 'interface', 'eth0');
    expect(execute(estate, step)).toEqual({ ok: true });
    down(estate, 'interface', 'eth1');
    expect(execute(estate, step)).toMatchObject({
      ok: false,
      refusal: { code: 'no-path', message: 'gate-1 has lost every path to disk1.' },
    });
    expect(execute(estate, stepOf(estate, { do: 'host.rescan', host: 'gate-1' }))).toEqual({ ok: true });
  });

  test('unmounts even when no path is left', () => {
    const estate = estateAfter(mounted);
    down(estate, 'interface', 'eth0');
    down(estate, 'interface', 'eth1');
    expect(execute(estate, stepOf(estate, { do: 'host-device.unmount', host: 'gate-1', device: 'disk1' }))).toEqual({
      ok: true,
    });
  });
});
