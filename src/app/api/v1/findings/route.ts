import { checks } from '@/core/check/engine';
import { findingsTable } from '@/formats/tables-csv';
import { currentFindings } from '@/server/capacity';
import { findingsTold } from '@/core/check/told';
import { answer, json, queryNumber, text } from '@/server/http';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const items = await currentFindings(plant);
    const url = new URL(request.url);
    if (url.searchParams.get('format') === 'csv') return text(findingsTable(items), 'text/csv', 'findings.csv');
    const told = findingsTold(items, checks, {
      words: url.searchParams.get('words') ?? '',
      muted: url.searchParams.get('muted') !== '0',
      each: queryNumber(url, 'each', Infinity, 1e9),
    });
    return json({
      ...told,
      checks: checks.map(({ id, severity, title }) => ({ id, severity, title })),
      now: plant.lab.now,
    });
  });
