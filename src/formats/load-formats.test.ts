import { hoursOfWeek } from '@/core/copies/activity';
import { weekShapes } from '@/core/kinds/activity';
import { activityOf, readTrace } from './io-trace';
import { holdsRates, readRates } from './load-rates';
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

describe('measured rates', () => {
  test('means over time, sizes, bursts; rows that cannot be read are told', () => {
    const read = readRates(`time,volume,reads,writes,bytes
0,lintel-1/tickets,100,0,819200
60,lintel-1/tickets,300,100,3276800
120,lintel-1/tickets,many,0,0
120,lintel-1/tickets,100,0,819200
110,lintel-1/tickets,1,1,1
,lintel-1/tickets,1,1,1
180,,1,1,1
`);
    if (!read.ok) throw new Error(read.message);
    expect(read.problems.map(({ line }) => line)).toEqual([4, 6, 7, 8]);
    const [one] = read.activities;
    expect(one).toMatchObject({ line: 2, volume: 'lintel-1/tickets', seconds: 180, ioBytes: 8192, week: null });
    expect(one!.reads).toBeCloseTo(500 / 3, 9);
    expect(one!.writes).toBeCloseTo(100 / 3, 9);
    expect(one!.burst).toBeCloseTo(2, 9);
  });

  test('the week is the shape that its hours fit best, once a day was seen', () => {
    for (const shape of weekShapes) {
      const monday = Date.parse('2031-04-14T00:00:00Z');
      const rows = Array.from({ length: 7 * 24 }, (_, hour) => {
        const rate = (100 * hoursOfWeek(shape)[hour]!).toFixed(3);
        return `${new Date(monday + hour * 3_600_000).toISOString()},a,${rate},0,1000`;
      });
      const read = readRates(['time,volume,reads,writes,bytes', ...rows].join('\n'));
      expect(read.ok && read.activities[0]!.week).toBe(shape);
      const short = readRates(['time,volume,reads,writes,bytes', ...rows.slice(0, 5)].join('\n'));
      expect(short.ok && short.activities[0]!.week).toBeNull();
    }
  });

  test('a whole week that is like no usual one is kept as it was; a part of it is not', () => {
    const monday = Date.parse('2031-04-14T00:00:00Z');
    const rate = (hour: number) => (hour % 24 === 3 || hour === 100 ? 240 : 20);
    const rows = Array.from(
      { length: 7 * 24 },
      (_, hour) => `${new Date(monday + hour * 3_600_000).toISOString()},a,${rate(hour)},0,1000`,
    );
    const weekSeen = (lines: string[]) => {
      const read = readRates(['time,volume,reads,writes,bytes', ...lines].join('\n'));
      return read.ok ? read.activities[0]!.week! : '';
    };
    const week = weekSeen(rows);
    expect(week).toMatch(/^Mon-Thu 03-04: 7\.\d+, Fri 03-05: 7\.\d+, Sat-Sun 03-04: 7\.\d+, else: 0\.\d+$/);
    expect(hoursOfWeek(week)[3]! / hoursOfWeek(week)[4]!).toBeCloseTo(12, 0);
    expect(weekShapes).toContain(weekSeen(rows.slice(0, 100)));
  });

  test('what is rates and what is single I/Os is seen at the head; a column that is missing is named', () => {
    expect(holdsRates('time,volume,reads,writes,bytes\n')).toBe(true);
    expect(holdsRates('time,volume,offset,size,type\n')).toBe(false);
    expect(holdsRates('')).toBe(false);
    expect(readRates('time,reads,writes\n')).toMatchObject({
      ok: false,
      message: 'The measurements have no column volume, bytes.',
    });
  });
});
