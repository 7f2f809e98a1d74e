import { checks } from '@/core/check/engine';
import { findingsTable } from '@/formats/tables-csv';
import { currentFindings } from '@/server/capacity';
import { answer, json, text } from '@/server/http';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const items = await currentFindings(plant);
    if (new URL(request.url).searchParams.get('format') === 'csv')
      return text(findingsTable(items), 'text/csv', 'findings.csv');
    return json({
      items,
      checks: checks.map(({ id, severity, title }) => ({ id, severity, title })),
      now: plant.lab.now,
    });
  });
