import { operationTypes } from '@/core/change/registry';
import { recipeTypes } from '@/core/change/recipes';
import { contextFor } from '@/core/change/plan';
import { basis, estateAfter, mounted } from '../../../demo/workbench';
import { formSpec } from '@/core/operation/form';
import { lensOf, paramsOf, valuesOf } from './form-values';

const types = [...recipeTypes, ...operationTypes];
const formSpecs = Object.fromEntries(types.map((type) => [type.kind, formSpec(type)]));

test('every operation has a sheet, whose fields are its parameters', () => {
  for (const type of types) {
    const spec = formSpecs[type.kind];
    expect(spec).toBeDefined();
    const parameters = Object.keys((type.schema as unknown as { shape: object }).shape);
    for (const field of spec!.fields) expect(parameters).toContain(field.name);
    // A mend fills a form in: what has no field would be lost. Only what a stand-in makes up at its start has none.
    const without = parameters.filter((name) => !spec!.fields.some((field) => field.name === name));
    expect([type.kind, without]).toEqual([type.kind, type.kind === 'host.create' ? ['presents'] : []]);
  }
});

test('the core has a word for every field of every sheet once an array, a host and a device are chosen', () => {
  const estate = estateAfter(mounted);
  const draft = {
    array: 'lintel-1',
    host: 'gate-1',
    pool: 'quay',
    port: 'a4',
    device: 'disk1',
    name: 'x',
    volumes: ['tickets-1'],
    drives: ['0:12', '0:13', '0:14', '0:15'],
    level: 'raid6',
    size: '1 GiB',
    to: 'thin',
    os: 'linux',
    site: 'Nordkai',
  };
  for (const type of types) {
    const { fields } = type.foretell(estate, draft, contextFor(basis, 0, 0));
    for (const { name } of formSpecs[type.kind]!.fields)
      expect([type.kind, name, Object.keys(fields)]).toEqual([type.kind, name, expect.arrayContaining([name])]);
  }
});

describe('values and parameters', () => {
  const round = (kind: string, params: Record<string, unknown>) =>
    paramsOf(formSpecs[kind]!, valuesOf(formSpecs[kind]!, params));
  test('what a draft holds goes through its sheet unchanged', () => {
    const map = {
      host: 'gate-1',
      array: 'lintel-1',
      volumes: ['a', 'b'],
      ports: ['a4'],
      lun: '3',
      access: 'read-only',
    };
    expect(round('mapping.create', map)).toEqual(map);
    const host = {
      name: 'h',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['iqn.a'],
      interfaces: [{ name: 'eth0', addresses: ['10.40.1.9/24', '10.40.2.9/24'], mtu: '9000' }],
    };
    expect(round('host.create', host)).toEqual(host);
  });
  test('numbers become text, all ports stay all, and what is empty is left out', () => {
    expect(round('volume.create', { array: 'lintel-1', count: 4, name: '' })).toEqual({
      array: 'lintel-1',
      count: '4',
    });
    expect(round('mapping.create', { host: 'gate-1' })).toEqual({ host: 'gate-1', ports: 'all' });
    expect(round('raid-group.create', { drives: [] })).toEqual({});
  });
  test('an empty list of addresses takes them away, so it is sent', () =>
    expect(round('port.configure', { array: 'lintel-1', port: 'a4' })).toEqual({
      array: 'lintel-1',
      port: 'a4',
      addresses: [],
    }));
  test('rows of interfaces without a name or address do not count', () =>
    expect(
      paramsOf(formSpecs['host.create']!, {
        interfaces: [
          { name: '', address: '', mtu: '9000' },
          { name: 'eth1', address: '', mtu: '' },
        ],
      }),
    ).toEqual({ interfaces: [{ name: 'eth1', addresses: [] }] }));
});

describe('lenses and switches', () => {
  const spec = formSpecs['raid-group.create']!;
  test('a lens starts where it is set to and is never sent with the operation', () => {
    expect(lensOf(spec, {})).toEqual({ $load: 30, $reads: 70, $ioSize: '' });
    expect(lensOf(spec, { $load: '90', $ioSize: '64 KiB' })).toEqual({ $load: '90', $reads: 70, $ioSize: '64 KiB' });
    expect(Object.keys(paramsOf(spec, { $load: '90', name: 'rg-9' }))).toEqual(['name']);
    for (const { lens } of Object.values(formSpecs))
      for (const { name } of lens ?? []) expect(name.startsWith('$')).toBe(true);
  });
  test('a switch is sent once it was touched, as yes or no', () => {
    const pool = formSpecs['pool.configure']!;
    expect(valuesOf(pool, {}).compression).toBe('');
    expect(paramsOf(pool, { compression: '' })).toEqual({});
    expect(paramsOf(pool, { compression: false })).toEqual({ compression: false });
    expect(valuesOf(pool, { compression: 'true' }).compression).toBe(true);
    expect(paramsOf(pool, valuesOf(pool, { compression: true }))).toEqual({ compression: true });
  });
  test('what stands behind More is a field like any other', () => {
    const folded = Object.values(formSpecs).flatMap((one) => one.fields.filter((field) => field.more));
    expect(folded.length).toBeGreaterThan(5);
    expect(paramsOf(spec, valuesOf(spec, { legs: 3, stripe: '8+2' }))).toEqual({ legs: '3', stripe: '8+2' });
  });
});
