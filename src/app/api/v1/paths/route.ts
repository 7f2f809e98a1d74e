import { mappingOf } from '@/core/attach/paths';
import { lookUp } from '@/core/operation/inquiry';
import { answer, json } from '@/server/http';
import { Problem } from '@/server/problem';
import { volumeByRef } from '@/server/volume-ref';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const query = new URL(request.url).searchParams;
    const view = plant.estate;
    const host = lookUp(view, 'host', query.get('host') ?? '');
    if (!host)
      throw new Problem(
        404,
        'host-unknown',
        `There is no host named ${query.get('host') ?? 'nothing'}.`,
        'Give host=NAME.',
      );
    const wanted = query.get('volume');
    const volume = wanted ? volumeByRef(view, wanted) : undefined;
    if (wanted && !volume)
      throw new Problem(
        404,
        'volume-unknown',
        `There is no volume named ${wanted}.`,
        'Give volume=NAME or volume=ARRAY/NAME.',
      );
    const finder = plant.finder();
    const mappings = volume ? [mappingOf(view, host.id, volume.id)] : view.table('mapping').by('host', host.id);
    const named = (kind: 'interface' | 'port' | 'controller' | 'network', id: string | null) =>
      id ? (view.table(kind).get(id)?.name ?? id) : null;
    const items = mappings.flatMap((mapping) => {
      if (!mapping) return [];
      const paths = finder.paths(mapping);
      const said = view.table('volume').get(mapping.volume)!;
      const words = <T extends { interface: string; port: string; network: string | null }>(row: T) => ({
        ...row,
        interface: named('interface', row.interface),
        port: named('port', row.port),
        network: named('network', row.network),
      });
      return [
        {
          host: host.name,
          volume: said.name,
          array: view.table('array').get(said.array)!.name,
          lun: mapping.lun,
          expected: paths.expected,
          usable: paths.usable,
          optimized: paths.optimized,
          found: paths.found.map((path) => ({ ...words(path), controller: named('controller', path.controller) })),
          missing: paths.missing.map(words),
        },
      ];
    });
    if (volume && items.length === 0)
      throw new Problem(404, 'not-mapped', `${volume.name} is not mapped to ${host.name}.`, 'Map it first.');
    return json({ total: items.length, items });
  });
