import { estateAfter, mapped } from '../../../demo/workbench';
import { parseBytes } from '../units/bytes';
import { draftArray, draftHost, draftList, draftText, nextName } from './draft';
import { driveRef, inquire, lookUp, lookUpDrive } from './inquiry';

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
