import { z } from 'zod';
import { moveBar } from '../../moving/fitness';
import { moveForm, moveParams } from '../../moving/move-fields';
import { moveForetold } from '../../moving/move-foretold';
import type { ArrayRow, Host, Volume } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf, hostOf } from '../../estate/relations';
import {
  arrayChoices,
  byName,
  draftArray,
  draftList,
  draftText,
  hostChoices,
  namedChoices,
  orNone,
} from '../../operation/draft';
import { folded, pick, several } from '../../operation/form';
import { inquire, lookUp, type Inquiry } from '../../operation/inquiry';
import type { RecipeType, Written } from '../../operation/recipe';
import { someOf } from '../../units/counted';
import { volumeChoices } from '../../volume/ask';
import { loginSteps, subsystemSteps, zoningSteps } from './give-storage';

const schema = z.object({
  array: z.string().optional().describe('The array on which the volumes are; not needed with a workload or a host'),
  volumes: z.array(z.string()).default([]),
  workload: z.string().optional().describe('Instead: all volumes of a workload'),
  host: z.string().optional().describe('Instead: all volumes that a host is shown'),
  ofPool: z.string().optional().describe('Instead: all volumes of a pool of the array'),
  ...moveParams,
});
type Params = z.output<typeof schema>;

/** The volumes that are meant, of which those that lie there already or go elsewhere are left out where nobody named them. */
function subjectOf(view: EstateView, asks: Inquiry, p: Params): Volume[] {
  const array = p.array ? asks.find('array', p.array, 'array') : undefined;
  const named = array ? p.volumes.flatMap((ref) => asks.find('volume', ref, 'volumes', array) ?? []) : [];
  const others = othersOf(view, asks, p, array);
  if (named.length === 0 && others.length === 0 && asks.refusals.length === 0)
    asks.refuse({
      code: 'nothing-to-move',
      field: 'volumes',
      subject: { kind: 'volume', name: 'none' },
      message: 'No volume is named, and there is none to move.',
      mend: 'Name volumes, a workload, a host or a pool.',
    });
  return [...new Map([...named, ...others].map((volume) => [volume.id, volume])).values()];
}

function othersOf(view: EstateView, asks: Inquiry, p: Params, array: ArrayRow | undefined): Volume[] {
  const found: Volume[] = [];
  if (p.workload) {
    const workload = asks.find('workload', p.workload, 'workload');
    if (workload) found.push(...view.table('volume').by('workload', workload.id));
  }
  if (p.host) {
    const host = asks.find('host', p.host, 'host');
    if (host)
      found.push(
        ...view
          .table('mapping')
          .by('host', host.id)
          .map(({ volume }) => view.table('volume').get(volume)!),
      );
  }
  if (p.ofPool && array) {
    const pool = asks.find('pool', p.ofPool, 'ofPool', array);
    if (pool) found.push(...view.table('volume').by('pool', pool.id));
  }
  const target = p.to ? lookUp(view, 'array', p.to) : undefined;
  return found
    .filter((volume) => {
      const to = lookUp(view, 'pool', p.pool, (target ?? arrayOf(view, volume)).id);
      return volume.deletedAt === null && volume.pool !== to?.id && moveBar(view, volume) === null;
    })
    .sort(byName);
}

/** What lets the hosts of volumes in at the array to which they go: zones, logins, a subsystem. */
function letIn(view: EstateView, volumes: readonly Volume[], target: ArrayRow): Written[] {
  const hosts = new Map<string, Host>();
  const byNvme = new Map<string, Host>();
  for (const volume of volumes)
    for (const mapping of view.table('mapping').by('volume', volume.id)) {
      const host = hostOf(view, mapping);
      (mapping.subsystem === null ? hosts : byNvme).set(host.id, host);
    }
  return [
    ...[...hosts.values()].sort(byName).flatMap((host) => {
      const to = { hosts: [host], cluster: null, name: host.name };
      return [...zoningSteps(view, to, target), ...loginSteps(view, to, target)];
    }),
    ...[...byNvme.values()].sort(byName).flatMap((host) => {
      const to = { hosts: [host], cluster: null, name: host.name };
      return [...subsystemSteps(view, to, target).steps, ...loginSteps(view, to, target)];
    }),
  ];
}

export const moveVolumes: RecipeType<Params> = {
  kind: 'storage.move',
  verb: 'Move volumes',
  summary:
    'Volumes, a workload, or all of a host or a pool go to another pool or array while hosts work; missing zones and logins there are made first.',
  schema,
  form: {
    columns: [2, 3, 4, 5, 6, 7],
    fields: {
      array: pick('Array'),
      volumes: several('Volumes'),
      ofPool: folded(pick('All of pool')),
      workload: folded(pick('All of workload')),
      host: folded(pick('All of host')),
      ...moveForm,
    },
  },
  title: (p) =>
    `Move ${p.workload ?? (p.host ? `all of ${p.host}` : p.ofPool ? `all of ${p.ofPool}` : someOf(p.volumes))} to ${p.to ? `${p.to} ` : ''}${p.pool}`,
  unfold(view, p) {
    const asks = inquire(view);
    const volumes = subjectOf(view, asks, p);
    const target = p.to ? asks.find('array', p.to, 'to') : undefined;
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const { array: _array, volumes: _volumes, workload: _workload, host: _host, ofPool: _ofPool, ...how } = p;
    const arrays = new Map<string, Volume[]>();
    for (const volume of volumes) arrays.set(volume.array, [...(arrays.get(volume.array) ?? []), volume]);
    const given = Object.fromEntries(Object.entries(how).filter(([, value]) => value !== undefined));
    return {
      ok: true,
      operations: [...arrays].flatMap(([id, own]) => {
        const array = view.table('array').get(id)!;
        return [
          ...(target && target.id !== id ? letIn(view, own, target) : []),
          { do: 'volume.move', array: array.name, volumes: own.map(({ name }) => name), ...given },
        ];
      }),
    };
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const asks = inquire(view);
    const volumes = subjectOf(view, asks, {
      ...(schema.safeParse({ pool: '', ...draft, volumes: draftList(draft, 'volumes') }).data ?? {
        ...schema.parse({ pool: draftText(draft, 'pool') }),
        volumes: draftList(draft, 'volumes'),
        ...(array ? { array: array.name } : {}),
      }),
    });
    return {
      fields: {
        array: { choices: arrayChoices(view), says: 'Where they are.' },
        volumes: {
          choices: volumeChoices(view, array, (volume) => moveBar(view, volume) ?? undefined),
          says:
            volumes.length > 0 ? `${someOf(volumes.map(({ name }) => name))}.` : 'Or all of a pool, workload or host.',
        },
        ofPool: {
          choices: orNone(
            (array ? [...view.table('pool').by('array', array.id)] : [])
              .sort(byName)
              .map(({ name }) => ({ value: name, label: name })),
          ),
          says: 'Those that go elsewhere already are left out.',
        },
        workload: { choices: orNone(namedChoices(view, 'workload')), says: 'On whichever arrays they are.' },
        host: { choices: orNone(hostChoices(view)), says: 'All that it is shown.' },
        ...moveForetold(view, draft, array ?? (volumes[0] && arrayOf(view, volumes[0])), volumes, context.now),
      },
    };
  },
};
