import { answer } from '@/server/http';
import { drillDocument } from '@/server/protection';

/** The report of a drill, for whoever asks (Markdown). */
export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const { name, text } = drillDocument(plant, new URL(request.url).searchParams.get('drill') ?? '');
    return new Response(text, {
      headers: {
        'content-type': 'text/markdown; charset=utf-8',
        'content-disposition': `attachment; filename="${name}.md"`,
      },
    });
  });
