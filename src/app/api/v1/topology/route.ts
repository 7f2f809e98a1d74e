import { graphml } from '@/formats/graphml';
import { topologyAnswer } from '@/server/attach-views';
import { answer, json, text } from '@/server/http';

/** Hosts, switches, networks and arrays, and what joins them. */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const found = topologyAnswer(plant, query);
    return query.get('format') === 'graphml'
      ? text(graphml(found), 'application/graphml+xml', 'topology.graphml')
      : json(found);
  });
