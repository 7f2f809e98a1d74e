import { moveLines, moveVerbs } from './facts-move';
import { shownAs } from '../copies/legs';
import { worstPost } from './posts';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, ownerOf, poolOf } from '../estate/relations';
import { pathFinder } from '../attach/paths';
import { nguidOf } from '../naming/identity';
import { storeOf } from '../pool/store';
import { formatBytes, percentUsed } from '../units/bytes';
import { groupsUnder, servingController, volumeState } from '../volume/health';
import { plural, reachedLine, type Told } from './facts-lines';
import { copyLines } from './facts-copies';
import { machineLines } from './facts-machine';
import { outsideLines } from './facts-outside';

export function volumeFacts(view: EstateView, id: string): Told {
  const volume = view.table('volume').get(id)!;
  const array = arrayOf(view, volume);
  const shown = view.table('volume').get(shownAs(view, id))!;
  const pool = poolOf(view, volume);
  const groups = groupsUnder(view, volume);
  const mappings = view.table('mapping').by('volume', id);
  const finder = pathFinder(view);
  const drives = groups.flatMap((group) => view.table('raidGroup').get(group)!.drives);
  const enclosures = new Set(drives.map((drive) => view.table('drive').get(drive)?.enclosure));
  const held = view.occupancy.allocated(id) * pool.extentSize;
  const reduced = volume.reducedTo === 0 ? undefined : storeOf(view, pool).volumes.find((row) => row.volume === id);
  const serving = servingController(view, volume);
  const owner = ownerOf(view, volume);
  const state = volumeState(view, volume);
  const reached = mappings.map((mapping) => reachedLine(view, finder, mapping.host, volume));
  const worst =
    mappings.find((_, k) => reached[k]!.post === 'broken') ?? mappings.find((_, k) => reached[k]!.post === 'leans');
  return {
    name: volume.name,
    post: state === 'lost' ? 'broken' : worstPost(reached, state === 'degraded'),
    line: `${volume.provisioning === 'thin' ? 'Thin' : 'Thick'}, ${pool.direct ? `straight on ${pool.name.split(',')[0]} of` : `in pool ${pool.name} on`} ${array.name}`,
    verbs: [
      ...(volume.deletedAt === null
        ? [
            { label: 'Map', do: 'mapping.create', params: { array: array.name, volumes: [volume.name] } },
            { label: 'Resize', do: 'volume.resize', params: { array: array.name, volumes: [volume.name] } },
            { label: 'Change', do: 'volume.configure', params: { array: array.name, volumes: [volume.name] } },
            ...moveVerbs(view, volume),
            ...(volume.provisioning === 'thin'
              ? [{ label: 'Reclaim', do: 'volume.reclaim', params: { array: array.name, volumes: [volume.name] } }]
              : pool.direct
                ? []
                : [
                    {
                      label: 'Make thin',
                      do: 'volume.convert',
                      params: { array: array.name, volumes: [volume.name], to: 'thin' },
                    },
                  ]),
          ]
        : [{ label: 'Restore', do: 'volume.restore', params: { array: array.name, volumes: [volume.name] } }]),
      ...(mappings[0]
        ? [
            {
              label: 'Trace',
              do: 'trace',
              params: {
                host: hostOf(view, worst ?? mappings[0]).name,
                volume: `${array.name}/${volume.name}`,
              },
            },
            {
              label: 'Unmap',
              do: 'mapping.delete',
              params: {
                host: hostOf(view, mappings[0]).name,
                array: array.name,
                volumes: [volume.name],
              },
            },
          ]
        : []),
      ...(mappings.length === 0 && volume.deletedAt === null
        ? [{ label: 'Retire', do: 'volume.delete', params: { array: array.name, volumes: [volume.name] } }]
        : []),
    ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Promised', value: formatBytes(volume.size, 'used') },
          {
            label: reduced ? 'Held unreduced' : 'Held',
            value: `${formatBytes(held, 'used')}, ${percentUsed(held, volume.size)} %`,
          },
          ...(reduced
            ? [
                {
                  label: 'Reduced, alone',
                  value: `${formatBytes(reduced.exclusive, 'used')} of ${formatBytes(reduced.mapped)} written`,
                },
                ...(reduced.shared > 0
                  ? [{ label: 'Reduced, with others', value: formatBytes(reduced.shared, 'used') }]
                  : []),
              ]
            : []),
          { label: 'Written', value: formatBytes(volume.written, 'used') },
          { label: 'Serial', value: shown.serial, mono: true },
          { label: shown.id === id ? 'NAA' : 'NAA, as its pair', value: shown.naa, mono: true },
          { label: 'NGUID', value: nguidOf(shown.naa), mono: true },
        ],
      },
      {
        title: 'Rests on',
        lines: [
          {
            text: `${plural(drives.length, 'drive')} in ${plural(enclosures.size, 'enclosure')}, through ${groups.map((group) => view.table('raidGroup').get(group)!.name).join(', ')}`,
            more: [
              ...(held > 0
                ? [
                    `${plural(view.occupancy.allocated(id), 'extent')} in ${plural(view.table('extent').countBy('volume', id), 'run')}`,
                  ]
                : []),
              ...(reduced
                ? [`in the ${plural(view.occupancy.allocated(pool.id), 'extent')} of the reduced store`]
                : []),
              ...(held === 0 && !reduced ? ['no extent taken yet'] : []),
            ].join(', '),
          },
          ...outsideLines(view, drives),
          {
            post: owner?.state === 'up' ? 'stands' : 'leans',
            text: `Controller ${owner?.name} owns it`,
            more:
              serving && serving.id !== volume.owner
                ? `${serving.name} serves it now`
                : serving
                  ? ''
                  : 'no controller serves it',
          },
          ...copyLines(view, volume),
          ...moveLines(view, volume),
          ...machineLines(view, volume),
        ],
      },
      { title: 'Reached by', lines: reached.length > 0 ? reached : [{ text: 'No host. Map it to one.' }] },
    ],
  };
}
