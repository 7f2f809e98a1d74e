import { deviceAt, mappingsOf } from '../../copies/legs';
import { witnessChoices } from '../../replicate/witness-operations';
import { legName } from '../../replicate/stretch-create';
import { flag } from '../../operation/params';
import { type Host } from '../../kinds/host';
import { type ArrayRow } from '../../kinds/array';
import { z } from 'zod';
import { lookUp } from '../../operation/inquiry';
import { inquire } from '../../operation/inquiry';
import { usualActivity } from '../../copies/activity';
import { arrayChoices, byName, draftNumber, draftText, hostChoices } from '../../operation/draft';
import type { Draft } from '../../operation/operation';
import { draftReceivers } from '../../attach/receivers';
import { headroomsOf } from '../../performance/pool-headroom';
import { placesFor } from '../../service/place';
import { parseBytes } from '../../units/bytes';
import { folded, pick, such } from '../../operation/form';
import type { RecipeType, Unfolded, Written } from '../../operation/recipe';
import { subjectOf } from '../../operation/refusal';
import { arrayOf, siteOf } from '../../estate/relations';
import type { EstateView } from '../../estate/estate';
import { modeChoices } from '../../replicate/pace';
import { replicationCreate } from '../../replicate/replication-create';
import { copyName } from '../../replicate/target-ask';
import { replicaOf } from '../../copies/replica';
import { giveFields, giveSchema, giveStorage, zoningSteps } from './give-storage';
import { takeBackFields, takeBackSchema, takeBackStorage } from './take-back';

const schema = giveSchema.extend({
  to: z.string().describe('The array at the other site'),
  toPool: z.string().describe('The pool there that takes the copies'),
  link: z.string().describe('The line over which they go'),
  mode: z
    .enum(['async', 'sync', 'stretched'])
    .default('async')
    .describe('Again and again, each write before it is acknowledged, or one identity at both sites'),
  witness: z.string().optional().describe('Who decides between both sites of what is stretched'),
  uniform: flag.default(true).describe('Hosts reach both sites of what is stretched; else each its own alone'),
  rpo: z.string().optional().describe('How much of the newest work may be lost, such as 10 min'),
  standby: z.string().optional().describe('The host at the other site that is to work with it after a disaster'),
});
type Params = z.output<typeof schema>;

/** The best pair of pools for what is asked: one for it, one at an array it can be copied to; null before a size is given. */
function pairFor(view: EstateView, draft: Draft): string | null {
  const size = parseBytes(draftText(draft, 'size'), 'promise');
  if (!size.ok || size.value === 0) return null;
  const usual = usualActivity[draftText(draft, 'activity') as keyof typeof usualActivity];
  const wanted = lookUp(view, 'serviceClass', draftText(draft, 'class'));
  const count = Math.max(1, draftNumber(draft, 'count', 1));
  const asked = {
    bytes: size.value * count,
    iops: usual ? (usual.reads + usual.writes) * count : 0,
    rules: wanted?.rules ?? [],
    replica: true,
  };
  const hosts = draftReceivers(view, draft)?.hosts ?? [];
  const { pools, says } = placesFor(view, { ...asked, hosts }, headroomsOf(view));
  const [best] = pools;
  return best?.replica ? `Best pair: ${best.array} ${best.name} with ${best.replica}.` : says;
}

/** Both legs of what is stretched are shown: to those to whom it was given, and to a host at the other site. */
function legsShown(
  view: EstateView,
  p: Params,
  names: readonly string[],
  {
    home,
    array,
    uniform,
    standby,
  }: { home: ArrayRow | undefined; array: ArrayRow; uniform: boolean; standby: Host | undefined },
): Written[] {
  const cluster = p.cluster ? lookUp(view, 'cluster', p.cluster) : undefined;
  const one = p.host ? lookUp(view, 'host', p.host) : undefined;
  const members = cluster && [...view.table('host').by('cluster', cluster.id)].sort(byName);
  const given = members ?? (one ? [one] : []);
  const legs = names.map(legName);
  /** A host sees the leg at its own site, and the other one where hosts reach both. */
  const near = (host: Host, side: ArrayRow) => uniform || host.site === side.site;
  const shown = given.filter((host) => near(host, array));
  const others = standby && !given.includes(standby) ? [standby] : [];
  const seeing: Written[] = [
    ...zoningSteps(view, { hosts: shown, cluster: null, name: '' }, array),
    ...(cluster && shown.length === given.length
      ? [{ do: 'mapping.create', cluster: cluster.name, array: array.name, volumes: legs }]
      : shown.map((host) => ({ do: 'mapping.create', host: host.name, array: array.name, volumes: legs }))),
  ];
  for (const host of others) {
    seeing.push(...zoningSteps(view, { hosts: [host], cluster: null, name: host.name }, array), {
      do: 'mapping.create',
      host: host.name,
      array: array.name,
      volumes: legs,
    });
    if (home && near(host, home))
      seeing.push(...zoningSteps(view, { hosts: [host], cluster: null, name: host.name }, home), {
        do: 'mapping.create',
        host: host.name,
        array: home.name,
        volumes: [...names],
      });
    if (!host.autoRescan) seeing.push({ do: 'host.rescan', host: host.name });
  }
  return seeing;
}

/** Names under which the volumes of the first part are carved. */
const carved = (operations: readonly Written[]): string[] =>
  operations.flatMap((one) => (one.do === 'mapping.create' ? (one.volumes as string[]) : []));

/** The array at which the first part carves them. */
function carvedAt(view: EstateView, operations: readonly Written[]): ArrayRow | undefined {
  const mapping = operations.find((one) => one.do === 'mapping.create');
  return mapping && lookUp(view, 'array', String(mapping.array));
}

export const giveOverTwoSites: RecipeType<Params> = {
  kind: 'storage.give-two-sites',
  verb: 'Give storage to… over two sites',
  summary:
    'Gives storage as usual, copies it to an array at another site, and maps the copies to the host there that takes over.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      ...giveFields,
      workload: pick('Workload'),
      to: pick('Copies to array'),
      toPool: pick('Its pool'),
      link: pick('Over link'),
      mode: folded('How'),
      witness: folded(pick('Witness')),
      uniform: folded({ label: 'Hosts reach both sites', control: 'switch' }),
      rpo: such('Loses at most', '10 min'),
      standby: pick('Host there'),
    },
  },
  title: (p) => `Give ${p.count === 1 ? p.size : `${p.count} × ${p.size}`} to ${p.cluster ?? p.host} over two sites`,

  unfold(view, p, context): Unfolded {
    const { to, toPool, link, mode, witness, uniform, rpo, standby, ...give } = p;
    const asks = inquire(view);
    const array = asks.find('array', to, 'to');
    const pool = array && asks.find('pool', toPool, 'toPool', array);
    asks.find('siteLink', link, 'link');
    const host = standby ? asks.find('host', standby, 'standby') : undefined;
    if (array && host && host.site !== array.site)
      asks.refuse({
        code: 'host-elsewhere',
        field: 'standby',
        subject: subjectOf('host', host),
        message: `${host.name} is not at ${siteOf(view, array).name}, where the copies stand.`,
        mend: 'Choose a host there.',
      });
    if (asks.refusals.length > 0 || !array || !pool) return { ok: false, refusals: asks.refusals };
    const workload = give.workload ?? give.name ?? give.cluster ?? give.host ?? 'storage';
    const first = giveStorage.unfold(view, { ...give, workload }, context);
    if (!first.ok) return first;
    const names = carved(first.operations);
    const home = carvedAt(view, first.operations);
    const known = lookUp(view, 'workload', workload);
    const copied = known ? view.table('replication').by('workload', known.id)[0] : undefined;
    if (copied)
      return {
        ok: false,
        refusals: [
          {
            code: 'replication-overlap',
            field: 'workload',
            subject: subjectOf('replication', copied),
            message: `${workload} is copied by ${copied.name} already; what joins it later is not copied with it.`,
            mend: 'Choose another workload, or none.',
          },
        ],
      };
    return {
      ok: true,
      operations: [
        ...(known ? [] : [{ do: 'workload.create', name: workload }]),
        ...first.operations,
        mode === 'stretched'
          ? { do: 'stretch.create', workload, to: array.name, pool: pool.name, link, witness: witness ?? '' }
          : {
              do: 'replication.create',
              workload,
              to: array.name,
              pool: pool.name,
              link,
              mode,
              ...(rpo && mode === 'async' ? { rpo } : {}),
            },
        ...(mode === 'stretched' ? legsShown(view, p, names, { home, array, uniform, standby: host }) : []),
        ...(host && mode !== 'stretched'
          ? [
              ...zoningSteps(view, { hosts: [host], cluster: null, name: host.name }, array),
              {
                do: 'mapping.create',
                host: host.name,
                array: array.name,
                volumes: names.map(copyName),
              },
              ...(host.autoRescan ? [] : [{ do: 'host.rescan', host: host.name }]),
            ]
          : []),
      ],
    };
  },

  foretell(view, draft, context) {
    const { fields } = giveStorage.foretell(view, draft, context);
    const side = replicationCreate.foretell(view, { ...draft, pool: draftText(draft, 'toPool') }, context).fields;
    const to = lookUp(view, 'array', draftText(draft, 'to'));
    const pair = pairFor(view, draft);
    return {
      fields: {
        ...fields,
        ...(pair && !draftText(draft, 'pool') ? { pool: { ...fields.pool, says: pair } } : {}),
        to: { choices: arrayChoices(view), says: to ? `At ${siteOf(view, to).name}.` : 'An array at another site.' },
        toPool: { choices: side.pool?.choices ?? [], says: pair ?? 'Takes as much as is written.' },
        link: side.link ?? {},
        mode: {
          choices: [...modeChoices, { value: 'stretched', label: 'One identity at both sites' }],
          suggested: 'async',
          says: side.mode?.says ?? '',
        },
        witness: { choices: witnessChoices(view), says: 'Only of what is stretched: at a third place.' },
        uniform: {
          suggested: 'true',
          says: 'Only of what is stretched: a host whose site falls silent goes on at the other.',
        },
        rpo: { says: side.rpo?.says ?? 'What is promised; a finding tells when it is not kept.' },
        standby: {
          choices: hostChoices(view).map((choice) => {
            const host = lookUp(view, 'host', choice.value);
            return to && host?.site !== to.site ? { ...choice, unfit: `is not at ${siteOf(view, to).name}` } : choice;
          }),
          says: 'Sees the copies, closed until its site takes over. Left empty, nobody does.',
        },
        workload: { ...fields.workload, says: 'Copied at one instant; without one it is called as what is given.' },
      },
    };
  },
};

const backSchema = takeBackSchema.extend({
  replication: z.string().describe('The replication that copies them'),
});
type BackParams = z.output<typeof backSchema>;

/** Volumes of the other site that go with those that are taken back, and who sees them. */
function othersOf(view: EstateView, name: string) {
  const row = lookUp(view, 'replication', name);
  const targets = (row?.secondaries ?? []).map((id) => view.table('volume').get(id)!);
  const mappings = targets.flatMap((volume) =>
    view
      .table('mapping')
      .by('volume', volume.id)
      .map((mapping) => ({ volume, host: view.table('host').get(mapping.host)! })),
  );
  return { row, targets, mappings };
}

export const takeBackOverTwoSites: RecipeType<BackParams> = {
  kind: 'storage.take-back-two-sites',
  verb: 'Take storage back over two sites',
  summary: 'Ends copying, takes the copies from whoever sees them and retires them, then takes back what was given.',
  schema: backSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: { ...takeBackFields, replication: pick('Replication') },
  },
  title: (p) => `Take ${p.volumes.length === 1 ? p.volumes[0] : `${p.volumes.length} volumes`} back over two sites`,

  unfold(view, p, context): Unfolded {
    const { replication, ...back } = p;
    const asks = inquire(view);
    asks.find('replication', replication, 'replication');
    const { row, targets, mappings } = othersOf(view, replication);
    if (!row) return { ok: false, refusals: asks.refusals };
    const left = row.primaries
      .map((id) => view.table('volume').get(id)!)
      .filter((volume) => !back.volumes.some((name) => name.toLowerCase() === volume.name.toLowerCase()));
    if (left.length > 0)
      asks.refuse({
        code: 'replication-unlike-sides',
        field: 'volumes',
        subject: subjectOf('replication', row),
        message: `${row.name} copies ${left.map(({ name }) => name).join(', ')}, too, which would stay without a copy.`,
        mend: 'Name all of its volumes, or end it by itself first.',
      });
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const first = takeBackStorage.unfold(view, back, context);
    if (!first.ok) return first;
    const array = arrayOf(view, targets[0]!).name;
    const hosts = [...new Set(mappings.map(({ host }) => host.name))];
    const mounted = mappings.flatMap(({ volume, host }) =>
      [deviceAt(view, host.id, volume.id)]
        // One that its host reaches by the first leg, too, goes with that.
        .filter((device) => device !== undefined)
        .filter((device) => device.volume === volume.id || mappingsOf(view, host.id, volume.id).length < 2)
        .map((device) => ({ host: host.name, device: device.name, mounted: device.mountPoint !== null })),
    );
    return {
      ok: true,
      operations: [
        ...(row.stretch === null ? [{ do: 'replication.remove', replication: row.name, confirm: row.name }] : []),
        ...mounted
          .filter((one) => one.mounted)
          .map(({ host, device }) => ({ do: 'host-device.unmount', host, device })),
        ...mounted.map(({ host, device }) => ({ do: 'host-device.remove', host, device })),
        ...hosts.map((host) => ({
          do: 'mapping.delete',
          host,
          array,
          volumes: mappings.filter((one) => one.host.name === host).map(({ volume }) => volume.name),
        })),
        // The legs of a stretched one are parted once nobody sees the second any more.
        ...(row.stretch === null
          ? []
          : [
              {
                do: 'stretch.dissolve',
                replication: row.name,
                keep: siteOf(view, arrayOf(view, view.table('volume').get(row.primaries[0]!)!)).name,
                confirm: row.name,
              },
            ]),
        {
          do: 'volume.delete',
          array,
          volumes: targets.map(({ name }) => name),
          confirm: back.confirm,
          keepDays: back.keepDays,
        },
        ...first.operations,
      ],
    };
  },

  foretell(view, draft, context) {
    const { fields } = takeBackStorage.foretell(view, draft, context);
    const { row, targets } = othersOf(view, draftText(draft, 'replication'));
    const of = new Set(
      [...view.table('replication').values()]
        .filter(({ primaries }) => primaries.some((id) => replicaOf(view, id)?.side === 'P'))
        .map(({ name }) => name),
    );
    return {
      fields: {
        ...fields,
        replication: {
          choices: [...of].sort().map((name) => ({ value: name, label: name })),
          says: row ? `${targets.map(({ name }) => name).join(', ')} go, too.` : 'What copies them to the other site.',
        },
      },
    };
  },
};
