import { pathSelectors, type Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { clusterOf } from '../estate/relations';
import { digestChoices } from '../iscsi/login';
import { reconnectWords } from '../nvme/reconnect';
import { byName, draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import type { Choice, Draft, Foretold, PlanContext } from '../operation/operation';
import { moveCluster } from './host-cluster';
import { initiatorText } from './initiators';

export const selectorWords: Record<Host['selector'], string> = {
  failover: 'Failover: one path, the others wait',
  'round-robin': 'Round robin: all of the best in turn',
  'queue-depth': 'Queue depth: the least busy',
  'service-time': 'Service time: the quickest',
};
export const selectorChoices: Choice[] = pathSelectors.map((value) => ({ value, label: selectorWords[value] }));

/** What is said beside the fields of a host that is changed. */
export function foretellHost(view: EstateView, draft: Draft, context: PlanContext): Foretold {
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
  const time = (field: string, now: number) => (draftText(draft, field) === '' ? now : Number(draftText(draft, field)));
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
}
