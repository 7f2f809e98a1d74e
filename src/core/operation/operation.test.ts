import { estateAfter, mapped } from '../../../demo/workbench';
import { parseBytes } from '../units/bytes';
import {
  arrayChoices,
  byName,
  draftArray,
  draftFlag,
  draftHost,
  draftList,
  draftNumber,
  draftText,
  hostChoices,
  nextName,
} from './draft';
import { driveRef, inquire, lookUp, lookUpDrive } from './inquiry';
import { nextStep } from './next-step';
import { planned, refused, scratchContext } from './operation';
import { flag, sizeText } from './params';
import { subjectOf } from './refusal';

const estate = estateAfter(mapped);
const lintel = lookUp(estate, 'array', 'lintel-1')!;

describe('asking by name', () => {
  test('names are found in any case, within their scope, and ids work too', () => {
    expect(lookUp(estate, 'pool', 'QUAY', lintel.id)?.name).toBe('quay');
    expect(lookUp(estate, 'pool', 'quay', lookUp(estate, 'array', 'purlin-1')!.id)).toBeUndefined();
    expect(lookUp(estate, 'array', lintel.id)).toBe(lintel);
    expect(lookUp(estate, 'controller', 'b', lintel.id)?.name).toBe('b');
    expect(lookUp(estate, 'interface', 'eth1', lookUp(estate, 'host', 'gate-1')!.id)?.name).toBe('eth1');
  });

  test('drives are found by enclosure and slot, on their own array only', () => {
    const drive = lookUpDrive(estate, ' 1:23 ', lintel.id)!;
    expect(driveRef(estate, drive)).toBe('1:23');
    expect(lookUpDrive(estate, drive.id, lintel.id)).toBe(drive);
    expect(lookUpDrive(estate, drive.id, lookUp(estate, 'array', 'purlin-1')!.id)).toBeUndefined();
    for (const wrong of ['1:24', '7:0', '1-2', '', '1:2:3'])
      expect(lookUpDrive(estate, wrong, lintel.id)).toBeUndefined();
  });

  test('what is unknown is refused with what is near or known', () => {
    const asks = inquire(estate);
    asks.find('host', 'gate-l', 'host');
    asks.find('pool', 'nowhere', 'pool', lintel);
    asks.find('array', '', 'array');
    expect(asks.refusals.map(({ code, message, mend }) => [code, message, mend])).toEqual([
      ['host-unknown', 'There is no host named gate-l.', 'Perhaps gate-1 is meant.'],
      ['pool-unknown', 'lintel-1 has no pool named nowhere.', 'Known are: quay.'],
      ['array-unknown', 'No array is named.', 'Known are: lintel-1, lintel-2, purlin-1.'],
    ]);
  });

  test('every refusal is collected, each with its field', () => {
    const asks = inquire(estate);
    expect(asks.freeName('pool', 'quay', lintel)).toBeUndefined();
    expect(asks.freeName('pool', 'a/b', lintel)).toBeUndefined();
    expect(asks.freeName('pool', ' hold ', lintel)).toBe('hold');
    expect(asks.value(parseBytes('7'), 'size', { kind: 'volume', name: 'x' })).toBeUndefined();
    expect(asks.refusals.map((refusal) => [refusal.code, refusal.field])).toEqual([
      ['name-taken', 'name'],
      ['name-bad-char', 'name'],
      ['unit-missing', 'size'],
    ]);
    expect(asks.refusals[2]).toMatchObject({ message: '7 has no unit.', mend: 'Write the unit, such as 7 GiB.' });
  });
});

describe('forms that are not filled in yet', () => {
  test('take what is there and pass over the rest', () => {
    const draft = { array: ' lintel-1 ', host: 7, drives: ['0:1', '', 3, '0:2'], count: 4, nothing: null };
    expect(draftText(draft, 'array')).toBe('lintel-1');
    expect(draftText(draft, 'count')).toBe('4');
    expect(draftText(draft, 'nothing')).toBe('');
    expect(draftList(draft, 'drives')).toEqual(['0:1', '0:2']);
    expect(draftList(draft, 'array')).toEqual([]);
    expect(draftArray(estate, draft)?.name).toBe('lintel-1');
    expect(draftHost(estate, draft)).toBeUndefined();
  });
  test('the next free name of a series', () => {
    expect(nextName('rg', [])).toBe('rg-1');
    expect(nextName('rg', [{ name: 'RG-1' }, { name: 'rg-3' }])).toBe('rg-2');
  });
});

describe('what forms hold while they are typed', () => {
  test('numbers, flags and lists are read, or what stands for none', () => {
    const draft = { a: ' 7 ', b: 'seven', c: '', d: true, e: 'true', f: 'yes', g: [' x ', ' ', 3], h: 'Infinity' };
    const number = (field: string) => draftNumber(draft, field, 9);
    expect([number('a'), number('b'), number('c'), number('none'), number('h')]).toEqual([7, 9, 9, 9, 9]);
    expect(['d', 'e', 'f', 'a', 'none'].map((field) => draftFlag(draft, field))).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect(draftList(draft, 'g')).toEqual([' x ']);
  });

  test('arrays and hosts are offered by name, numbers in their order', () => {
    expect(arrayChoices(estate)).toEqual([
      { value: 'lintel-1', label: 'lintel-1, Lintel 40' },
      { value: 'lintel-2', label: 'lintel-2, Lintel 40' },
      { value: 'purlin-1', label: 'purlin-1, Purlin 80' },
    ]);
    expect(hostChoices(estate)).toEqual([{ value: 'gate-1', label: 'gate-1' }]);
    expect(draftHost(estate, { host: ' gate-1 ' })?.name).toBe('gate-1');
    expect(['rg-10', 'rg-9', 'rg-1'].map((name) => ({ name })).sort(byName)[2]!.name).toBe('rg-10');
  });

  test('yes and no, and sizes, as JSON, YAML and forms write them', () => {
    expect([true, false, 'true', 'false'].map((value) => flag.parse(value))).toEqual([true, false, true, false]);
    for (const wrong of ['yes', 1, '', null]) expect(flag.safeParse(wrong).success).toBe(false);
    expect([sizeText.parse('5 GiB'), sizeText.parse(5)]).toEqual(['5 GiB', '5']);
    expect(sizeText.safeParse(true).success).toBe(false);
  });
});

describe('what is unknown', () => {
  test('is named by its kind and scope, and only few known names are listed', () => {
    const asks = inquire(estate);
    asks.find('raidGroup', 'rg-9', 'group', lintel);
    asks.find('volume', 'tickets-7', 'volumes', lintel);
    asks.find('interface', 'eth7', 'interface', lookUp(estate, 'host', 'gate-1'));
    asks.find('port', 'z9', 'port', lintel);
    asks.drive('9:9', 'drives', lintel);
    expect(asks.refusals).toMatchObject([
      {
        code: 'raid-group-unknown',
        field: 'group',
        message: 'lintel-1 has no RAID group named rg-9.',
        mend: 'Perhaps rg-1 is meant.',
      },
      {
        code: 'volume-unknown',
        message: 'lintel-1 has no volume named tickets-7.',
        mend: 'Perhaps tickets-1 is meant.',
      },
      { code: 'interface-unknown', message: 'gate-1 has no host port named eth7.', mend: 'Perhaps eth0 is meant.' },
      { code: 'port-unknown', mend: expect.stringMatching(/^(Perhaps|Check)/) as string },
      {
        code: 'drive-unknown',
        field: 'drives',
        subject: { kind: 'drive', name: '9:9' },
        message: 'lintel-1 has no drive 9:9.',
      },
    ]);
    expect(asks.find('pool', 'quay', 'pool', lintel)?.name).toBe('quay');
    const other = inquire(estate);
    other.find('pool', 'zzzzzzz', 'pool', lookUp(estate, 'array', 'purlin-1'));
    expect(other.refusals[0]!.mend).toBe('Check the name.');
  });

  test('a reader’s words become the reason and the mend', () => {
    const asks = inquire(estate);
    asks.value({ ok: false, reason: 'odd', message: 'It is odd. Make it even. Then go on.' } as never, 'x', {
      kind: 'pool',
      name: 'p',
    });
    asks.value(
      { ok: false, reason: 'odd', message: 'It is odd.' } as never,
      'x',
      { kind: 'pool', name: 'p' },
      'Do this.',
    );
    asks.value({ ok: false, reason: 'odd', message: 'It is odd.' } as never, 'x', { kind: 'pool', name: 'p' });
    expect(asks.refusals.map(({ message, mend }) => [message, mend])).toEqual([
      ['It is odd.', 'Make it even. Then go on.'],
      ['It is odd.', 'Do this.'],
      ['It is odd.', 'Correct it.'],
    ]);
    expect(asks.value({ ok: true, value: 7 } as never, 'x', { kind: 'pool', name: 'p' })).toBe(7);
  });
});

test('the small parts of operations', () => {
  expect(nextStep('Map it', 'mapping.create', { host: 'gate-1' })).toEqual({
    label: 'Map it',
    do: 'mapping.create',
    params: { host: 'gate-1' },
  });
  expect(subjectOf('array', lintel)).toEqual({ kind: 'array', id: lintel.id, name: 'lintel-1' });
  const device = { kind: 'array', id: lintel.id, name: 'lintel-1' } as const;
  expect(planned({ device, title: 'x', takes: 1, effects: [] })).toEqual({
    ok: true,
    step: { device, title: 'x', takes: 1, effects: [], notes: [], destroys: null, next: [] },
  });
  expect(planned({ device, title: 'x', takes: 1, effects: [], notes: ['n'], destroys: 'd' })).toMatchObject({
    step: { notes: ['n'], destroys: 'd' },
  });
  expect(refused([])).toEqual({ ok: false, refusals: [] });
  const scratch = scratchContext();
  expect([scratch.newId('pool'), scratch.newId('pool'), scratch.now, scratch.month]).toEqual([
    'pool_scratch_0',
    'pool_scratch_1',
    0,
    '9999-12',
  ]);
});
