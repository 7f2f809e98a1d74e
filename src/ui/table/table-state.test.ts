import fc from 'fast-check';
import { textOfRow } from './columns';
import { compareValues, holdsWords, lookFromText, lookToText, parameterOf, PLAIN } from './table-state';

const columns = ['FCID', 'Node name', 'Gb/s', 'Asked ÷ takes', '-Odd'];

describe('how a table is looked at', () => {
  test('leaves no trace while it is as it comes', () => {
    expect(lookToText(PLAIN)).toBe('');
    expect(lookFromText('', columns)).toEqual(PLAIN);
  });

  test('comes back from the URL as it went there', () =>
    fc.assert(
      fc.property(
        fc.record({
          sort: fc.option(fc.record({ column: fc.constantFrom(...columns.slice(0, 4)), down: fc.boolean() })),
          find: fc.string(),
          hidden: fc.uniqueArray(fc.constantFrom(...columns)),
        }),
        (look) => expect(lookFromText(lookToText(look), columns)).toEqual(look),
      ),
    ));

  test('columns that are not there are passed over', () =>
    expect(lookFromText('sort=-Nothing&hide=Gone&hide=FCID', columns)).toEqual({ ...PLAIN, hidden: ['FCID'] }));

  test('a parameter is named after the table', () =>
    expect(parameterOf('Logins of fabric A')).toBe('table-logins-of-fabric-a'));
});

describe('lines', () => {
  test('are ordered as people count', () => {
    expect(['vol-10', 'vol-9', 'Vol-1'].sort(compareValues)).toEqual(['Vol-1', 'vol-9', 'vol-10']);
    expect(['020c00', '020300', '010d00'].sort(compareValues)).toEqual(['010d00', '020300', '020c00']);
    expect(['10.40.1.11', '10.40.1.9'].sort(compareValues)).toEqual(['10.40.1.9', '10.40.1.11']);
    expect([10, 9, 100].sort(compareValues)).toEqual([9, 10, 100]);
  });

  test('are found by all words, in any column and order', () => {
    const text = textOfRow(
      [
        { head: 'Host', value: (row: { host: string; up: boolean; ports: number }) => row.host },
        { head: 'Up', value: (row) => row.up },
        { head: 'Ports', value: (row) => row.ports },
        { head: 'Do', deeds: () => 'nothing to be found' },
      ],
      { host: 'Quay-7', up: true, ports: 2 },
    );
    expect(holdsWords(text, '2 quay')).toBe(true);
    expect(holdsWords(text, 'yes')).toBe(true);
    expect(holdsWords(text, 'quay 3')).toBe(false);
    expect(holdsWords(text, 'nothing')).toBe(false);
  });
});
