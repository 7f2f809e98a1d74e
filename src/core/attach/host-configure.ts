import { z } from 'zod';
import { folded, pick, secret, the } from '../operation/form';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { digestOffers, pathSelectors, rowOf, type Cluster, type Host, type HostInterface } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { clusterOf, volumeOf } from '../estate/relations';
import { ruledAnew } from '../iscsi/target';
import { reconnectWords } from '../nvme/reconnect';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';
import { parseName } from '../naming/names';
import { byName, draftHost, draftText, hostChoices } from '../operation/draft';
import { digestChoices } from '../iscsi/login';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords, secretWords, type FieldWords } from '../operation/moved';
import {
  planned,
  refused,
  type Choice,
  type Foretold,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { claimed, claimOf, initiatorForm, initiatorText, parseInitiator, readInitiators } from './initiators';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from './losses';
import { takenLuns } from './luns';
import { mappingOf } from './paths';
import { someOf } from '../units/counted';

const schema = z.object({
  host: z.string(),
  newName: z.string().optional(),
  cluster: z.string().optional().describe('A cluster, a new one, or none'),
  initiators: z.array(z.string()).optional().describe('All names on record from now on'),
  presents: z.string().optional().describe('The name the stand-in really sends'),
  selector: z.enum(pathSelectors).optional(),
  multipath: z.boolean().optional(),
  autoRescan: z.boolean().optional(),
  autoLogin: z.boolean().optional(),
  discovery: z.enum(['addresses', 'isns']).optional(),
  chapName: z.string().optional(),
  chapSecret: z.string().optional().describe('What it proves itself with'),
  targetSecret: z.string().optional().describe('What arrays must prove themselves with'),
  headerDigest: z.enum(digestOffers).optional(),
  dataDigest: z.enum(digestOffers).optional(),
  connections: z.coerce.number().int().min(1).max(65535).optional().describe('Of one iSCSI session'),
  ioQueues: z.coerce.number().int().min(1).max(65535).optional().describe('Of one NVMe controller'),
  queueDepth: z.coerce.number().int().min(1).max(4096).optional(),
  keepAlive: z.coerce.number().int().min(0).optional().describe('Milliseconds; 0 for never'),
  lossTime: z.coerce
    .number()
    .int()
    .min(0)
    .optional()
    .describe('Milliseconds after which a lost path is given up; 0 for never'),
  reconnectDelay: z.coerce.number().int().min(0).optional().describe('Milliseconds between tries, NVMe/TCP'),
  noPathWait: z.coerce.number().int().min(0).optional().describe('Milliseconds that I/O waits without any path'),
  failback: z.boolean().optional().describe('Failover goes back to a path of greater weight'),
});
type Params = z.output<typeof schema>;

export const selectorWords: Record<Host['selector'], string> = {
  failover: 'Failover: one path, the others wait',
  'round-robin': 'Round robin: all of the best in turn',
  'queue-depth': 'Queue depth: the least busy',
  'service-time': 'Service time: the quickest',
};
export const selectorChoices: Choice[] = pathSelectors.map((value) => ({ value, label: selectorWords[value] }));

/** What a host loses with its old cluster, and gains with the new one. */
function moveCluster(
  view: EstateView,
  asks: Inquiry,
  host: Host,
  cluster: { id: string; name: string } | null,
  context: PlanContext,
): { effects: Effect[]; notes: string[] } {
  const effects: Effect[] = [];
  const lost: string[] = [];
  const gained: string[] = [];
  for (const mapping of view.table('mapping').by('host', host.id)) {
    if (mapping.cluster === null || mapping.cluster === cluster?.id) continue;
    const volume = volumeOf(view, mapping);
    const device = view
      .table('hostDevice')
      .by('host', host.id)
      .find((row) => row.volume === volume.id);
    if (device?.mountPoint)
      asks.refuse({
        code: 'in-use',
        field: 'cluster',
        subject: subjectOf('volume', volume),
        message: `${host.name} has ${volume.name}, which it sees through its cluster, mounted at ${device.mountPoint}.`,
        mend: `Unmount ${device.name} first.`,
      });
    lost.push(volume.name);
    effects.push(deleted('mapping', mapping));
  }
  const going = new Set(effects.map((effect) => effect.id));
  const shared = cluster ? view.table('mapping').by('cluster', cluster.id) : [];
  for (const mapping of new Map(shared.map((row) => [row.volume, row])).values()) {
    const volume = volumeOf(view, mapping);
    if (mappingOf(view, host.id, volume.id) && !going.has(mappingOf(view, host.id, volume.id)!.id)) continue;
    const holder = mapping.subsystem
      ? undefined
      : takenLuns(view, host.id, volume.array, mapping.ports, mapping.target).get(mapping.lun);
    const held =
      holder &&
      view
        .table('mapping')
        .by('host', host.id)
        .find((row) => row.volume === holder);
    if (held && !going.has(held.id))
      asks.refuse({
        code: 'lun-taken',
        field: 'cluster',
        subject: subjectOf('host', host),
        message: `${cluster!.name} shows ${volume.name} as LUN ${mapping.lun}, which is ${view.table('volume').get(holder)!.name} at ${host.name}.`,
        mend: `Renumber ${view.table('volume').get(holder)!.name} at ${host.name} first.`,
      });
    gained.push(volume.name);
    effects.push(created('mapping', rowOf('mapping', { ...mapping, id: context.newId('mapping'), host: host.id })));
  }
  return {
    effects,
    notes: [
      ...(lost.length > 0 ? [`It loses ${someOf(lost, 4)}.`] : []),
      ...(gained.length > 0 ? [`It gains ${someOf(gained, 4)}.`] : []),
    ],
  };
}

/** One name that goes and one of its form that comes are one initiator under another name. */
function renamedOf(before: readonly string[], after: readonly string[]): Record<string, string> {
  const [gone, ...others] = before.filter((name) => !after.includes(name));
  const [come, ...more] = after.filter((name) => !before.includes(name));
  const one = gone !== undefined && come !== undefined && others.length + more.length === 0;
  return one && initiatorForm(gone) === initiatorForm(come) ? { [gone]: come } : {};
}

const onRecord = (view: EstateView, host: Host): string[] =>
  view
    .table('initiator')
    .by('host', host.id)
    .map((row) => row.name);

/** How what moved of a host is said; `cluster` is the name of the one it joins. */
const hostWords = (cluster: string | undefined): FieldWords<Host> => ({
  name: (name) => `is called ${name}`,
  cluster: (id) => (id === null ? 'out of its cluster' : `into cluster ${cluster}`),
  presents: (name) => (name === null ? 'presents no iSCSI name' : `presents ${name}`),
  nqn: (name) => (name === null ? 'presents no NQN' : `presents ${name}`),
  selector: (selector) => `spreads I/O by ${selectorWords[selector].split(':')[0]!.toLowerCase()}`,
  multipath: (on) => (on ? 'combines paths' : 'combines no paths'),
  autoRescan: (on) => (on ? 'looks for volumes by itself' : 'looks for volumes when told to'),
  autoLogin: (on) => (on ? 'logs in by itself' : 'logs in where it is told to'),
  discovery: (by) => (by === 'isns' ? 'asks a name server for targets' : 'asks portals for targets'),
  chapName: (name) => (name === '' ? 'its CHAP name is its initiator name' : `CHAP name ${name}`),
  chapSecret: secretWords('CHAP secret'),
  targetSecret: secretWords('secret expected of arrays'),
  headerDigest: (offer) => `header digest ${offer}`,
  dataDigest: (offer) => `data digest ${offer}`,
  connections: (count) => `${count} ${count === 1 ? 'connection' : 'connections'} a session`,
  ioQueues: (count) => `asks for ${count} I/O ${count === 1 ? 'queue' : 'queues'} a controller`,
  queueDepth: (depth) => `queue depth ${depth}`,
  keepAlive: (time) => (time === 0 ? 'no keep-alive' : `keep-alive ${time / 1000} s`),
  lossTime: (time) => (time === 0 ? 'gives no lost path up' : `gives a lost path up after ${time / 1000} s`),
  reconnectDelay: (time) => `tries a lost controller every ${time / 1000} s`,
  noPathWait: (time) => (time === 0 ? 'I/O waits for no path' : `I/O waits ${time / 1000} s for a path`),
  failback: (on) => (on ? 'failover goes back to the heavier path' : 'failover stays where it is'),
});

export const hostConfigure: OperationType<Params> = {
  kind: 'host.configure',
  verb: 'Change a host',
  summary: 'Changes a host’s name, cluster, initiators on record, path policy, login and timers.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
      newName: 'New name',
      cluster: pick('Host cluster'),
      initiators: 'Initiators',
      selector: 'Spreads I/O',
      discovery: 'Finds targets',
      chapSecret: folded(secret('Its secret')),
      targetSecret: folded(secret('Of arrays')),
      chapName: folded('CHAP name'),
      autoLogin: folded('Logs in itself'),
      autoRescan: folded('Looks itself'),
      multipath: folded('Combines paths'),
      connections: folded('iSCSI connections'),
      ioQueues: folded('NVMe I/O queues'),
      queueDepth: folded('Queue depth'),
      keepAlive: folded('Keep-alive, ms'),
      lossTime: folded('Loss after, ms'),
      reconnectDelay: folded('Tries every, ms'),
      noPathWait: folded('I/O waits, ms'),
      failback: folded('Goes back'),
      headerDigest: folded('Header digest'),
      dataDigest: folded('Data digest'),
      presents: folded('Really sends'),
    },
  },
  title: (p) => `Change host ${p.host}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    if (!host) return refused(asks.refusals);
    const chapSecret = askSecret(asks, p.chapSecret, 'chapSecret', host.name);
    const targetSecret = askSecret(asks, p.targetSecret, 'targetSecret', host.name);
    refuseSameBothWays(view, asks, chapSecret, { proves: 'host', field: 'chapSecret', whose: host.name });
    refuseSameBothWays(view, asks, targetSecret, { proves: 'target', field: 'targetSecret', whose: host.name });
    if (chapSecret && chapSecret === targetSecret)
      asks.refuse({
        code: 'secret-same-both-ways',
        field: 'targetSecret',
        subject: subjectOf('host', host),
        message: `${host.name} would expect of arrays the secret it proves itself with: both ways must differ.`,
        mend: 'Choose a second secret.',
      });
    const name =
      p.newName && p.newName !== host.name ? asks.freeName('host', p.newName, undefined, 'newName', host) : host.name;
    const initiators = p.initiators ? readInitiators(view, asks, p.initiators, context.month, host.id) : undefined;
    const presents = p.presents
      ? asks.value(parseInitiator(p.presents, context.month), 'presents', { kind: 'initiator', name: p.presents })
      : undefined;
    const effects: Effect[] = [];
    const notes: string[] = [];
    let cluster: Cluster | null | undefined;
    if (p.cluster !== undefined && p.cluster !== '') {
      cluster = p.cluster === 'none' ? null : (lookUp(view, 'cluster', p.cluster) ?? null);
      if (p.cluster !== 'none' && !cluster) {
        const clusterName = asks.value(parseName(p.cluster, 'host cluster'), 'cluster', {
          kind: 'cluster',
          name: p.cluster,
        });
        cluster = { id: context.newId('cluster'), name: clusterName ?? '' };
        effects.push(created('cluster', cluster));
        notes.push(`${cluster.name} is a new host cluster.`);
      }
      if ((cluster?.id ?? null) !== host.cluster) {
        const moved = moveCluster(view, asks, host, cluster, context);
        effects.push(...moved.effects);
        notes.push(...moved.notes);
        const left = host.cluster ? view.table('host').countBy('cluster', host.cluster) : 2;
        if (left === 1) effects.push(deleted('cluster', clusterOf(view, host)!));
      }
    }
    if (initiators) {
      const own = view.table('initiator').by('host', host.id);
      for (const row of own)
        if (!initiators.includes(row.name))
          effects.push(
            ...view
              .table('access')
              .by('initiator', row.id)
              .map((rule) => deleted('access', rule)),
            deleted('initiator', row),
          );
      const ports: HostInterface[] = [];
      for (const initiator of initiators)
        if (!own.some((row) => row.name === initiator)) {
          effects.push(
            created(
              'initiator',
              rowOf('initiator', { id: context.newId('initiator'), host: host.id, name: initiator }),
            ),
          );
          const { port, note } = claimOf(view, initiator);
          if (port) ports.push(port);
          if (note) notes.push(note);
        }
      const taken = view.table('interface').by('host', host.id);
      const claims = claimed(
        host.id,
        ports,
        taken.map((row) => row.name),
      );
      effects.push(...claims.effects);
      notes.push(...claims.notes);
    }
    const iscsi = presents && initiatorForm(presents) === 'iscsi' ? presents : undefined;
    const nqn = presents && initiatorForm(presents) === 'nqn' ? presents : undefined;
    const first = (form: 'iscsi' | 'nqn') => initiators?.find((one) => initiatorForm(one) === form) ?? null;
    const after: Host = {
      ...host,
      name: name ?? host.name,
      cluster: cluster === undefined ? host.cluster : (cluster?.id ?? null),
      presents: iscsi ?? host.presents ?? first('iscsi'),
      nqn: nqn ?? host.nqn ?? first('nqn'),
      selector: p.selector ?? host.selector,
      multipath: p.multipath ?? host.multipath,
      autoRescan: p.autoRescan ?? host.autoRescan,
      autoLogin: p.autoLogin ?? host.autoLogin,
      discovery: p.discovery ?? host.discovery,
      chapName: p.chapName ?? host.chapName,
      chapSecret: chapSecret === undefined ? host.chapSecret : chapSecret,
      targetSecret: targetSecret === undefined ? host.targetSecret : targetSecret,
      headerDigest: p.headerDigest ?? host.headerDigest,
      dataDigest: p.dataDigest ?? host.dataDigest,
      connections: p.connections ?? host.connections,
      ioQueues: p.ioQueues ?? host.ioQueues,
      queueDepth: p.queueDepth ?? host.queueDepth,
      keepAlive: p.keepAlive ?? host.keepAlive,
      lossTime: p.lossTime ?? host.lossTime,
      reconnectDelay: p.reconnectDelay ?? host.reconnectDelay,
      noPathWait: p.noPathWait ?? host.noPathWait,
      failback: p.failback ?? host.failback,
    };
    effects.push(changed('host', host, after));
    effects.push(
      ...ruledAnew(view, {
        ...(after.name === host.name ? {} : { [host.name]: after.name }),
        ...(initiators ? renamedOf(onRecord(view, host), initiators) : {}),
      }),
    );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const around = pathsAround(view, effects, mappingsOfHosts(view, [host.id]));
    refuseCut(asks, around, subjectOf('host', host), 'host');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Change ${host.name}: ${[
        movedWords(host, after, hostWords(cluster?.name)),
        ...(initiators && initiators.join() !== onRecord(view, host).join()
          ? [`known as ${initiators.map(initiatorText).join(', ') || 'nothing'}`]
          : []),
      ]
        .filter((words, _k, all) => all.length === 1 || words !== 'nothing changes')
        .join(', ')}`,
      takes: 2 * SECOND,
      effects,
      notes: [...notes, ...lossNotes(around)],
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      newName: {},
      cluster: {
        choices: [
          { value: 'none', label: 'None' },
          ...[...view.table('cluster').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
        ],
      },
      initiators: {},
      selector: { choices: selectorChoices },
      discovery: {
        choices: [
          { value: 'addresses', label: 'By asking portals' },
          { value: 'isns', label: 'By a name server' },
        ],
      },
      chapSecret: { says: 'Never shown again. Write none to take it away.' },
      targetSecret: { says: 'For mutual CHAP.' },
      chapName: { says: 'Empty: its initiator name.' },
      autoLogin: {},
      autoRescan: {},
      multipath: {},
      connections: { says: 'Of one iSCSI session; the smaller of both sides holds.' },
      ioQueues: { says: 'Of one NVMe controller, each a TCP connection; it takes no more than the subsystem offers.' },
      queueDepth: {},
      keepAlive: {},
      lossTime: { says: 'So long it waits for a lost path to come back; 0 for ever.' },
      reconnectDelay: { says: 'Between tries to reach a lost NVMe controller.' },
      noPathWait: { says: 'Without any path I/O waits so long, then the file system turns read-only.' },
      failback: { says: 'Back to the heavier path of failover once it is there again; else it stays.' },
      headerDigest: { choices: digestChoices, says: 'Both sides must share one.' },
      dataDigest: { choices: digestChoices },
      presents: { says: 'What the stand-in shows at login, whatever is on record.' },
    };
    const host = draftHost(view, draft);
    if (!host) return { fields };
    fields.cluster!.suggested = host.cluster ? clusterOf(view, host)!.name : 'none';
    fields.selector!.suggested = host.selector;
    fields.discovery!.suggested = host.discovery;
    fields.initiators!.suggested = view
      .table('initiator')
      .by('host', host.id)
      .map((row) => initiatorText(row.name));
    fields.initiators!.says = host.presents ? `It really sends ${host.presents}.` : '';
    const wanted = draftText(draft, 'cluster');
    const cluster = wanted && wanted !== 'none' ? lookUp(view, 'cluster', wanted) : null;
    if (wanted && (cluster?.id ?? null) !== host.cluster && cluster !== undefined)
      fields.cluster!.says =
        moveCluster(view, inquire(view), host, cluster, context).notes.join(' ') || 'Nothing is gained or lost.';
    else fields.cluster!.says = 'Members share volumes.';
    fields.selector!.says = 'For devices that name no selector of their own.';
    fields.autoLogin!.suggested = String(host.autoLogin);
    fields.autoLogin!.says = host.autoLogin ? 'Where something is mapped to it.' : 'Only where it was told to.';
    fields.autoRescan!.suggested = String(host.autoRescan);
    fields.autoRescan!.says = 'When an array says that LUNs have changed.';
    fields.multipath!.suggested = String(host.multipath);
    fields.multipath!.says = host.multipath
      ? 'One device of all paths to one identity.'
      : 'Each path shows as a disk of its own.';
    fields.ioQueues!.suggested = String(host.ioQueues);
    fields.connections!.suggested = String(host.connections);
    fields.queueDepth!.suggested = String(host.queueDepth);
    fields.queueDepth!.says = `Commands a LUN; ${host.commandLimit} an adapter at most.`;
    fields.keepAlive!.suggested = String(host.keepAlive);
    fields.keepAlive!.says = host.keepAlive === 0 ? 'A dead path stays unnoticed.' : 'Until it notices a dead path.';
    fields.lossTime!.suggested = String(host.lossTime);
    const time = (field: string, now: number) =>
      draftText(draft, field) === '' ? now : Number(draftText(draft, field));
    fields.lossTime!.says = reconnectWords({
      keepAlive: time('keepAlive', host.keepAlive),
      reconnectDelay: time('reconnectDelay', host.reconnectDelay),
      lossTime: time('lossTime', host.lossTime),
    });
    fields.reconnectDelay!.suggested = String(host.reconnectDelay);
    fields.noPathWait!.suggested = String(host.noPathWait);
    fields.failback!.suggested = String(host.failback);
    fields.headerDigest!.suggested = host.headerDigest;
    fields.dataDigest!.suggested = host.dataDigest;
    return { fields };
  },
};
