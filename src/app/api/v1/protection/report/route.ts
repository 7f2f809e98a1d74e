import { answer } from '@/server/http';
import { drillDocument, siteLostDocument } from '@/server/protection';

/** The report of a drill, or of what the loss of a site would leave, for whoever asks (Markdown). */
export const GET = (request: Request) =>
  answer(async ({ plant }) => {
    const asked = new URL(request.url).searchParams;
    const site = asked.get('site');
    const { name, text } =
      site === null ? drillDocument(plant, asked.get('drill') ?? '') : siteLostDocument(plant, site);
    return new Response(text, {
      headers: {
        'content-type': 'text/markdown; charset=utf-8',
        'content-disposition': `attachment; filename="${name}.md"`,
      },
    });
  });
