import { estateAfter, mounted } from '../../demo/workbench';
import Papa from 'papaparse';
import { checkContext, findings } from '@/core/check/engine';
import { changed } from '@/core/estate/effects';
import { capacityModel } from '@/core/space/capacity';
import { forecast } from '@/core/space/forecast';
import { capacityTable, findingsTable, tables } from './tables-csv';

const estate = estateAfter([...mounted, { do: 'workload.create', name: '=Ticketing', notes: '' }]);
const [volume] = [...estate.table('volume').values()];
const [workload] = [...estate.table('workload').values()];
estate.apply([changed('volume', volume!, { workload: workload!.id })]);
const model = capacityModel(estate);
const pool = model.arrays.flatMap((array) => array.pools)[0]!;
const series = Array.from({ length: 20 }, (_, day) => ({ day, bytes: day * 2 ** 30 }));
const runways = [
  {
    pool: pool.id,
    days: series.map(({ day, bytes }) => ({
      day,
      size: pool.size,
      promised: 0,
      written: bytes,
      used: bytes,
      most: bytes,
    })),
    marks: [{ percent: 90, at: 1, words: '', answer: forecast(series, pool.size, pool.size / 2) }],
  },
];
const read = (csv: string) => Papa.parse<Record<string, string>>(csv.trim(), { header: true }).data;

test.each(tables)('%s has a head and figures in bytes', (table) => {
  const csv = capacityTable({ ...model, runways }, table);
  expect(csv.endsWith('\r\n')).toBe(true);
  expect(csv).not.toMatch(/undefined|NaN|\[object/);
});

test('sums of volumes are those of their pool', () => {
  const volumes = read(capacityTable({ ...model, runways }, 'volumes'));
  const pools = read(capacityTable({ ...model, runways }, 'pools'));
  const sum = (field: string) => volumes.reduce((total, row) => total + Number(row[field]), 0);
  expect(sum('provisioned')).toBe(Number(pools[0]!.provisioned));
  expect(sum('written')).toBe(Number(pools[0]!.written));
});

test('a cell that begins like a formula is taken for text', () =>
  expect(capacityTable({ ...model, runways }, 'workloads')).toContain("'=Ticketing"));

test('runways name their pool and say the days', () => {
  const [row] = read(capacityTable({ ...model, runways }, 'runways'));
  expect(row).toMatchObject({ pool: pool.name, percent: '90' });
  expect(Number(row!.days)).toBeGreaterThan(0);
});

test('findings are written with what would mend them', () => {
  const rows = read(findingsTable(findings(estate, checkContext(estate, Date.parse('2031-04-14')))));
  expect(rows.length).toBeGreaterThan(0);
  for (const row of rows)
    expect([row.severity, row.says === '', row.advice === '']).toEqual([
      expect.stringMatching(/error|warning|note/),
      false,
      false,
    ]);
});
