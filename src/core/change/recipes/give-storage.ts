import { z } from 'zod';
import { folded, pick, such, the } from '../../operation/form';
import { clusterFileSystems, families } from '../../attach/families';
import { initiatorForm } from '../../attach/initiators';
import { sessionBook } from '../../attach/sessions';
import { wasTold } from '../../attach/told';
import { sharedFabrics } from '../../attach/ways';
import { transports, type ArrayRow, type Host, type Transport } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { deviceByWwpn } from '../../fabric/devices';
import { zoneBook } from '../../fabric/zoning';
import { nameSeries } from '../../naming/names';
import { connectRefusal, subsystemsOf } from '../../nvme/connect';
import { draftList, draftNumber, draftText, hostChoices, nextName } from '../../operation/draft';
import { inquire, lookUp, type Inquiry } from '../../operation/inquiry';
import { flag, sizeText } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { subjectOf } from '../../operation/refusal';
import { parseBytes } from '../../units/bytes';
import { MOST_AT_ONCE } from '../../volume/create-foretell';
import { classChoices } from '../../service/class-operations';
import { rankPools, type PoolOffer } from './best-pool';
import { askReceivers, clusterChoices, draftReceivers, naming, type Receivers } from '../../attach/receivers';
import { stopped } from '../../units/counted';
import { activityKinds } from '../../kinds/activity';
import { carvedFields } from './carved-fields';

export const giveSchema = z.object({
  host: z.string().optional(),
  cluster: z.string().optional().describe('Instead of a host: all its members'),
  size: sizeText.describe('Of each volume, with its unit, such as 500 GiB'),
  count: z.coerce.number().int().min(1, 'give at least 1').max(MOST_AT_ONCE).default(1),
  name: z.string().optional().describe('One name, or the stem of a series; without it the name of who gets it'),
  pool: z.string().optional().describe('As array/pool; without it the best one'),
  transport: z.enum(transports).optional().describe('Without it the best that leads there'),
  provisioning: z.enum(['thin', 'thick']).default('thin'),
  access: z.enum(['read-write', 'read-only']).default('read-write'),
  mount: flag.default(true).describe('Format and mount'),
  fileSystem: z.string().optional(),
  mountPoint: z.string().optional().describe('Of the first volume; further ones are numbered'),
  workload: z.string().optional(),
  activity: z.enum(activityKinds).optional().describe('What runs on it'),
  plan: z.string().optional().describe('A protection plan of its own; without it that of its workload'),
  class: z.string().optional().describe('A service class: only pools that fit it, and it is watched from then on'),
});
export type GiveParams = z.output<typeof giveSchema>;
type Params = GiveParams;

function choosePool(view: EstateView, asks: Inquiry, to: Receivers, p: Params): PoolOffer | null {
  const size = parseBytes(p.size, 'promise');
  if (!size.ok) {
    asks.value(size, 'size', { kind: 'volume', name: p.name ?? to.name });
    return null;
  }
  const wanted = p.class ? asks.find('serviceClass', p.class, 'class') : null;
  if (wanted === undefined) return null;
  const thick = p.provisioning === 'thick';
  const offers = rankPools(view, to.hosts, size.value * p.count, thick, p.transport ?? null, wanted);
  const [array = '', pool = ''] = p.pool?.split('/') ?? [];
  const chosen = p.pool
    ? offers.find((one) => one.array.name === array && one.pool.name === pool)
    : offers.find((one) => one.unfit === null);
  if (p.pool && !chosen) {
    asks.refuse({
      code: 'pool-unknown',
      field: 'pool',
      subject: { kind: 'pool', name: p.pool },
      message: `There is no pool ${p.pool}.`,
      mend: `Write it as array/pool, such as ${offers[0] ? `${offers[0].array.name}/${offers[0].pool.name}` : 'lintel-1/quay'}.`,
    });
    return null;
  }
  if (chosen && chosen.unfit === null) return chosen;
  const nearest = chosen ?? offers[0];
  asks.refuse({
    code: chosen ? 'pool-unfit' : 'no-pool-fits',
    field: 'pool',
    subject: chosen ? subjectOf('pool', chosen.pool) : { kind: 'pool', name: 'any' },
    message: nearest
      ? `${nearest.array.name}/${nearest.pool.name}: ${nearest.unfit}${chosen ? '' : '; no other pool does better'}.`
      : 'There is no pool yet.',
    mend: nearest ? 'Choose another pool, a smaller size, or plug the host in where the array is.' : 'Make one first.',
  });
  return null;
}

/** Zones are joined fabric after fabric, so that the paths over one stay while the other changes. */
export function zoningSteps(view: EstateView, to: Receivers, array: ArrayRow): Written[] {
  const meets = (host: Host, fabric: string): boolean => {
    const book = zoneBook(view, fabric);
    const initiators = view
      .table('interface')
      .by('host', host.id)
      .flatMap((row) => (row.wwpn ? (deviceByWwpn(view, row.wwpn) ?? []) : []))
      .filter((device) => device.fabric === fabric);
    const targets = view
      .table('port')
      .by('array', array.id)
      .flatMap((port) => (port.wwpn ? (deviceByWwpn(view, port.wwpn) ?? []) : []))
      .filter((device) => device.fabric === fabric);
    return initiators.every((initiator) => targets.some((target) => book.mayTalk(initiator, target)));
  };
  const fabrics = [...new Set(to.hosts.flatMap((host) => sharedFabrics(view, host, array)))];
  return fabrics.flatMap((id): Written[] => {
    const fabric = view.table('fabric').get(id)!.name;
    const without = to.hosts.filter((host) => sharedFabrics(view, host, array).includes(id) && !meets(host, id));
    if (without.length === 0) return [];
    return to.cluster && without.length === to.hosts.length
      ? [{ do: 'zoning.join', fabric, cluster: to.cluster.name, array: array.name }]
      : without.map((host) => ({ do: 'zoning.join', fabric, host: host.name, array: array.name }));
  });
}

/** Hosts that log in only where they are told to are told. */
export const loginSteps = (view: EstateView, to: Receivers, array: ArrayRow): Written[] =>
  to.hosts.flatMap((host) =>
    host.autoLogin || wasTold(view, host, array.id) ? [] : [{ do: 'host.login', host: host.name, array: array.name }],
  );

/** A subsystem that lets all of them in: one that does, one that is made to, or a new one. */
export function subsystemSteps(view: EstateView, to: Receivers, array: ArrayRow): { name: string; steps: Written[] } {
  const all = subsystemsOf(view, array.id);
  const open = all.find((one) => to.hosts.every((host) => connectRefusal(host, one) === null));
  if (open) return { name: open.name, steps: [] };
  const some = all.find((one) => to.hosts.some((host) => connectRefusal(host, one) === null));
  if (some) {
    const more = to.hosts.filter((host) => connectRefusal(host, some) !== null).map((host) => host.name);
    return {
      name: some.name,
      steps: [{ do: 'subsystem.configure', array: array.name, name: some.name, allowed: [...some.allowed, ...more] }],
    };
  }
  const name = all.some((one) => one.name === to.name) ? nextName(to.name, all) : to.name;
  const allowed = to.hosts.map((host) => host.name);
  return { name, steps: [{ do: 'subsystem.create', array: array.name, name, allowed }] };
}

/** Where something is mounted at one of the hosts already. */
const mountPoints = (view: EstateView, to: Receivers): Set<string> =>
  new Set(
    to.hosts.flatMap((host) =>
      view
        .table('hostDevice')
        .by('host', host.id)
        .flatMap((device) => device.mountPoint?.split('/').at(-1) ?? []),
    ),
  );

/** The name of who gets the volumes, numbered on from the first number from which no volume and no mount point is called so. */
function freeStem(
  name: string,
  count: number,
  taken: readonly { name: string }[],
  mounted: ReadonlySet<string>,
): { stem: string; from: number } {
  const names = new Set(taken.map((row) => row.name.toLowerCase()));
  const isFree = (one: string) => !names.has(one.toLowerCase()) && !mounted.has(one);
  if (count === 1 && isFree(name)) return { stem: name, from: 1 };
  if (count === 1) return { stem: nextName(name, [...taken, ...[...mounted].map((one) => ({ name: one }))]), from: 1 };
  let from = 1;
  while (!nameSeries(name, count, from).every(isFree)) from += 1;
  return { stem: name, from };
}

/** What keeps arrays from letting the hosts in over this transport. */
function checkNames(view: EstateView, asks: Inquiry, to: Receivers, array: ArrayRow, transport: Transport): void {
  const form = { fc: 'wwn', iscsi: 'iscsi', 'nvme-tcp': 'nqn' }[transport];
  for (const host of to.hosts) {
    if (
      !view
        .table('initiator')
        .by('host', host.id)
        .some((row) => initiatorForm(row.name) === form)
    )
      asks.refuse({
        code: 'no-initiator',
        field: to.cluster ? 'cluster' : 'host',
        subject: subjectOf('host', host),
        message: `${host.name} has no ${{ fc: 'port name', iscsi: 'iSCSI name', 'nvme-tcp': 'host NQN' }[transport]} on record.`,
        mend: 'Register it with the host first.',
      });
    if (transport !== 'iscsi') continue;
    const { up, missing } = sessionBook(view)(host.id, array.id);
    const why = missing.find((gap) => gap.transport === 'iscsi' && gap.reason !== 'not-logged-in');
    if (!up.some((one) => one.transport === 'iscsi') && why)
      asks.refuse({
        code: why.reason,
        field: to.cluster ? 'cluster' : 'host',
        subject: subjectOf('host', host),
        message: `${host.name} does not log in at ${array.name}: ${stopped(why.message)}`,
        mend: 'Mend that first; the trace shows where it breaks.',
      });
  }
}

/** Formats on the first member; the others mount it too where the file system allows it. */
function mountSteps(view: EstateView, asks: Inquiry, to: Receivers, volumes: readonly string[], p: Params): Written[] {
  const [first, ...others] = to.hosts;
  const family = families[first!.os];
  const fileSystem = p.fileSystem ?? family.fileSystems[0]!;
  if (p.access === 'read-only') {
    asks.refuse({
      code: 'read-only',
      field: 'mount',
      subject: subjectOf('host', first!),
      message: 'A volume that can only be read cannot be formatted.',
      mend: 'Leave formatting out, or give it for reading and writing.',
    });
    return [];
  }
  const pointOf = (volume: string, k: number) =>
    p.mountPoint ? (k === 0 ? p.mountPoint : `${p.mountPoint}-${k + 1}`) : `${family.mountBase}/${volume}`;
  return volumes.flatMap((volume, k): Written[] => [
    { do: 'host-device.format', host: first!.name, device: volume, fileSystem, mountPoint: pointOf(volume, k) },
    ...(clusterFileSystems.includes(fileSystem)
      ? others.map((host) => ({
          do: 'host-device.mount',
          host: host.name,
          device: volume,
          mountPoint: pointOf(volume, k),
        }))
      : []),
  ]);
}

export const giveFields = {
  host: the.host,
  cluster: the.cluster,
  size: such('Size', '500 GiB'),
  count: 'How many',
  pool: the.pool,
  transport: 'Transport',
  mount: { label: 'Format, mount', control: 'switch' as const },
  name: folded('Name'),
  provisioning: folded('Provisioning'),
  access: folded('Access'),
  fileSystem: folded(pick('File system')),
  mountPoint: folded('Mount point'),
  workload: folded(pick('Workload')),
  activity: folded('What runs on it'),
  plan: folded(pick('Protection plan')),
  class: folded(pick('Service class')),
};

export const giveStorage: RecipeType<Params> = {
  kind: 'storage.give',
  verb: 'Give storage to…',
  summary:
    'Carves volumes in the best pool, opens zones or access, maps, rescans, formats and mounts, for a host or all members of a cluster.',
  schema: giveSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: giveFields,
  },
  title: (p) => `Give ${p.count === 1 ? p.size : `${p.count} × ${p.size}`} to ${p.cluster ?? p.host}`,

  unfold(view, p) {
    const asks = inquire(view);
    const to = askReceivers(view, asks, p);
    const offer = to && choosePool(view, asks, to, p);
    const transport = offer?.ways[0];
    if (to && offer && transport) checkNames(view, asks, to, offer.array, transport);
    if (asks.refusals.length > 0 || !to || !offer || !transport) return { ok: false, refusals: asks.refusals };
    const { array, pool } = offer;
    const taken = view.table('volume').by('array', array.id);
    const { stem, from } = p.name
      ? { stem: p.name, from: 1 }
      : freeStem(to.name, p.count, taken, mountPoints(view, to));
    const names = nameSeries(stem, p.count, from);
    const subsystem = transport === 'nvme-tcp' ? subsystemSteps(view, to, array) : null;
    const mounts = p.mount ? mountSteps(view, asks, to, names, p) : [];
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    return {
      ok: true,
      operations: [
        {
          do: 'volume.create',
          array: array.name,
          pool: pool.name,
          name: stem,
          size: p.size,
          count: p.count,
          ...(from > 1 ? { startNumber: from } : {}),
          provisioning: p.provisioning,
          ...(p.workload ? { workload: p.workload } : {}),
          ...(p.activity ? { activity: p.activity } : {}),
          ...(p.plan ? { plan: p.plan } : {}),
        },
        ...(p.class ? [{ do: 'class.apply', array: array.name, class: p.class, volumes: names }] : []),
        ...(transport === 'fc' ? zoningSteps(view, to, array) : []),
        ...(transport === 'iscsi' ? loginSteps(view, to, array) : []),
        ...(subsystem?.steps ?? []),
        {
          do: 'mapping.create',
          ...naming(to),
          array: array.name,
          volumes: names,
          access: p.access,
          ...(subsystem ? { subsystem: subsystem.name } : {}),
        },
        ...(subsystem ? loginSteps(view, to, array) : []),
        ...to.hosts
          .filter((host) => !host.autoRescan && (!subsystem || !host.autoLogin))
          .map((host) => ({ do: 'host.rescan', host: host.name })),
        ...mounts,
      ],
    };
  },

  foretell(view, draft) {
    const to = draftReceivers(view, draft);
    const fields: ReturnType<RecipeType['foretell']>['fields'] = {
      ...carvedFields(view),
      host: { choices: hostChoices(view), says: 'Who shall have it.' },
      cluster: { choices: clusterChoices(view), says: 'Instead of one host.' },
      size: { says: 'Of each volume.' },
      count: { suggested: '1' },
      name: { says: 'Without one, the name of who gets it.' },
      pool: {},
      transport: {},
      access: {
        suggested: 'read-write',
        choices: [
          { value: 'read-write', label: 'Read and write' },
          { value: 'read-only', label: 'Read only' },
        ],
      },
      mount: { suggested: 'true' },
      fileSystem: {},
      mountPoint: {},
      class: {
        choices: [{ value: '', label: 'None' }, ...classChoices(view)],
        says: 'Only pools that fit it; a finding tells when they no longer do.',
      },
    };
    if (!to || to.hosts.length === 0) return { fields };
    fields.cluster!.says = to.cluster
      ? `${to.hosts.map((host) => host.name).join(', ')}: the same LUN on each.`
      : 'Instead of one host.';
    const size = parseBytes(draftText(draft, 'size'), 'promise');
    const bytes = (size.ok ? size.value : 0) * draftNumber(draft, 'count', 1);
    const wanted = draftText(draft, 'transport');
    const offers = rankPools(
      view,
      to.hosts,
      bytes,
      draftText(draft, 'provisioning') === 'thick',
      transports.find((one) => one === wanted) ?? null,
      lookUp(view, 'serviceClass', draftText(draft, 'class')) ?? null,
    );
    fields.pool!.choices = offers.map((one) => ({
      value: `${one.array.name}/${one.pool.name}`,
      label: `${one.array.name}/${one.pool.name}: ${one.says}`,
      ...(one.unfit ? { unfit: one.unfit } : {}),
    }));
    const best = offers.find((one) => one.unfit === null);
    const chosen = offers.find((one) => `${one.array.name}/${one.pool.name}` === draftText(draft, 'pool')) ?? best;
    fields.pool!.says = chosen
      ? `${draftText(draft, 'pool') ? '' : `The best: ${chosen.array.name}/${chosen.pool.name}. `}${chosen.says}; ${chosen.near} of ${to.hosts.length} ${to.hosts.length === 1 ? 'host is' : 'hosts are'} at its site.`
      : 'No pool is reached and has room.';
    const words = { fc: 'Fibre Channel', iscsi: 'iSCSI', 'nvme-tcp': 'NVMe/TCP' };
    fields.transport!.choices = transports.map((value) => ({
      value,
      label: words[value],
      ...(offers.some((one) => one.ways.includes(value)) || wanted !== '' ? {} : { unfit: 'does not lead there' }),
    }));
    if (chosen?.ways[0]) fields.transport!.says = `Over ${words[chosen.ways[0]]}.`;
    const family = families[to.hosts[0]!.os];
    fields.fileSystem!.choices = family.fileSystems.map((value) => ({ value, label: value }));
    fields.fileSystem!.suggested = family.fileSystems[0]!;
    const shared = clusterFileSystems.includes(draftText(draft, 'fileSystem') || family.fileSystems[0]!);
    fields.mount!.says =
      to.hosts.length === 1
        ? `Formatted and mounted at ${to.hosts[0]!.name}.`
        : shared
          ? 'Formatted once, mounted on every member.'
          : `Formatted and mounted at ${to.hosts[0]!.name}; the others see it and leave it alone.`;
    fields.mountPoint!.says = `Without one, ${family.mountBase}/ and the name.`;
    if (draftList(draft, 'volumes').length === 0 && lookUp(view, 'workload', draftText(draft, 'workload')))
      fields.workload!.says = 'Its volumes are counted together.';
    return { fields };
  },
};
