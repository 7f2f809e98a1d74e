import { z } from 'zod';
import { folded, pick, secret, the } from '../operation/form';
import { changed, type Effect } from '../estate/effects';
import { digestOffers, pathSelectors, type Host } from '../estate/entities';
import { ruledAnew } from '../iscsi/target';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';
import { inquire } from '../operation/inquiry';
import { movedWords, secretWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askCluster } from './host-cluster';
import { foretellHost, selectorWords } from './host-foretell';
import { onRecord, recordNames, renamedOf } from './host-names';
import { initiatorForm, initiatorText, parseInitiator, readInitiators } from './initiators';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from './losses';

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
    const joins = askCluster(view, asks, host, p.cluster, context);
    const { cluster } = joins;
    effects.push(...joins.effects);
    notes.push(...joins.notes);
    const named = initiators ? recordNames(view, host, initiators, context) : { effects: [], notes: [] };
    effects.push(...named.effects);
    notes.push(...named.notes);
    const iscsi = presents && initiatorForm(presents) === 'iscsi' ? presents : undefined;
    const nqn = presents && initiatorForm(presents) === 'nqn' ? presents : undefined;
    const first = (form: 'iscsi' | 'nqn') => initiators?.find((one) => initiatorForm(one) === form) ?? null;
    const after: Host = {
      ...withNamed(
        host,
        p,
        'selector',
        'multipath',
        'autoRescan',
        'autoLogin',
        'discovery',
        'chapName',
        'headerDigest',
        'dataDigest',
        'connections',
        'ioQueues',
        'queueDepth',
        'keepAlive',
        'lossTime',
        'reconnectDelay',
        'noPathWait',
        'failback',
      ),
      name: name ?? host.name,
      cluster: cluster === undefined ? host.cluster : (cluster?.id ?? null),
      presents: iscsi ?? host.presents ?? first('iscsi'),
      nqn: nqn ?? host.nqn ?? first('nqn'),
      chapSecret: chapSecret === undefined ? host.chapSecret : chapSecret,
      targetSecret: targetSecret === undefined ? host.targetSecret : targetSecret,
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
  foretell: foretellHost,
};
