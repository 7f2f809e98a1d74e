import { kindOfCollection, listCollection } from '@/server/collections';
import { answer, json, queryNumber } from '@/server/http';

export const GET = (request: Request, { params }: { params: Promise<{ collection: string }> }) =>
  answer(async ({ plant }) => {
    const url = new URL(request.url);
    const page = listCollection(
      plant.estate,
      kindOfCollection((await params).collection),
      url.searchParams,
      queryNumber(url, 'limit', 100, 1000),
      queryNumber(url, 'offset', 0, 1e9),
    );
    return json({ ...page, items: page.items.map((row) => plant.vault.veiledRow(row)) });
  });
