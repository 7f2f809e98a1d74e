import { capacityTable, tables, type TableName } from '@/formats/tables-csv';
import { capacityView } from '@/server/capacity';
import { answer, text } from '@/server/http';
import { Problem } from '@/server/problem';

export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const table = new URL(request.url).searchParams.get('table') ?? '';
    if (!tables.includes(table as TableName))
      throw new Problem(
        404,
        'table-unknown',
        `There is no table ${table || 'without a name'}.`,
        `Known are: ${tables.join(', ')}.`,
      );
    return text(capacityTable(await capacityView(plant), table as TableName), 'text/csv', `${table}.csv`);
  });
