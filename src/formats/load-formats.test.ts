import { activityOf, readTrace } from './io-trace';
import { writeOpenMetrics } from './openmetrics';

const csv = `time,volume,offset,size,type
0,tickets,0,8192,read
0.5,tickets,8192,8192,read
-1,tickets,0,8192,read
1,tickets,16384,8192,write
0.9,tickets,0,8192,read
2,tickets,24576,8192,W
2,scanner,0,4096,trim
4,scanner,4096,4096,r
`;

describe('traces of block I/O', () => {
  test('CSV: what can be read is read, and each bad line is told', () => {
    const read = readTrace(csv);
    if (!read.ok) throw new Error(read.message);
    expect(read.rows).toHaveLength(5);
    expect(read.problems.map(({ line, message }) => `${line} ${message}`)).toEqual([
      '4 Line 4: its time -1 lies before the beginning.',
      '6 Line 6: its time 0.9 lies before that of the line above, 1.',
      '8 Line 8: trim is neither read nor write.',
    ]);
    const [tickets, scanner] = activityOf(read.rows);
    expect(tickets).toMatchObject({
      volume: 'tickets',
      seconds: 4,
      reads: 0.5,
      writes: 0.5,
      ioBytes: 8192,
      sequential: true,
    });
    expect(scanner).toMatchObject({ volume: 'scanner', reads: 0.25, sequential: false });
  });

  test('the text of a block layer: what is queued counts, and a comment names the volume', () => {
    const read = readTrace(`# volume lintel-1/tickets
  8,0    1        1     0.000000000  4521  Q   R 2048 + 16 [db]
  8,0    1        2     0.000100000  4521  D   R 2048 + 16 [db]
  8,0    1        3     1.500000000  4521  Q  WS 4096 + 8 [db]
nonsense
`);
    if (!read.ok) throw new Error(read.message);
    expect(read.rows).toEqual([
      { line: 2, atS: 0, volume: 'lintel-1/tickets', offset: 1_048_576, size: 8192, write: false },
      { line: 4, atS: 1.5, volume: 'lintel-1/tickets', offset: 2_097_152, size: 4096, write: true },
    ]);
    expect(read.problems).toHaveLength(1);
  });

  test('what is no trace is said', () => {
    expect(readTrace('')).toMatchObject({ ok: false });
    expect(readTrace('a,b\n1,2')).toMatchObject({
      ok: false,
      message: expect.stringContaining('time, volume') as string,
    });
  });
});

test('metrics are escaped and ended', () => {
  expect(
    writeOpenMetrics([
      { name: 'trabes_volume_iops', help: 'I/O a second', samples: [{ labels: { volume: 'a"b\\c' }, value: 1.5 }] },
    ]),
  ).toBe(
    '# TYPE trabes_volume_iops gauge\n# HELP trabes_volume_iops I/O a second\ntrabes_volume_iops{volume="a\\"b\\\\c"} 1.5\n# EOF\n',
  );
});
