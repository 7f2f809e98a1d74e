import type { EstateView } from '../../estate/estate';
import type { AuditKind } from '../../fabric/audit';
import { mergeFabrics, type MergeSide } from '../../fabric/merge';
import { mergeSide } from '../../fabric/merge-side';
import { auditMend } from '../../trace/audit-mend';
import { waitingSet } from '../../trace/mends';
import { mendFor } from '../../trace/reasons';
import type { Check, Severity } from '../finding';
import { aboutHost, volumeNames, traceOf, wantedGaps } from './context';
import { someOf, unstopped } from '../../units/counted';

/** Severity, title and advice of what the audit of a fabric finds. */
const audited: Record<AuditKind, { severity: Severity; title: string; advice: string }> = {
  'zone-many-initiators': {
    severity: 'warning',
    title: 'Zones with several initiators',
    advice: 'Split it: one initiator a zone.',
  },
  'zone-one-member': { severity: 'warning', title: 'Zones that permit nothing', advice: 'Add a member or drop it.' },
  'zone-no-target': {
    severity: 'warning',
    title: 'Zones without initiator and target',
    advice: 'Add what is missing.',
  },
  'zone-stale-member': {
    severity: 'warning',
    title: 'Zone members never seen',
    advice: 'Remove the member.',
  },
  'zone-member-near-miss': {
    severity: 'error',
    title: 'Zone members that are a slip',
    advice: 'Replace it by the name that has logged in.',
  },
  'zone-duplicate': { severity: 'warning', title: 'Zones that are the same', advice: 'Drop one of them.' },
  'zone-mixed-members': {
    severity: 'warning',
    title: 'Members by name and by place',
    advice: 'Keep the name, drop the place.',
  },
  'zone-node-name': { severity: 'warning', title: 'Members by node name', advice: 'Name the ports instead.' },
  'zone-without-mapping': {
    severity: 'note',
    title: 'Zones without a mapping',
    advice: 'Map something, or part them.',
  },
  'alias-unused': { severity: 'note', title: 'Aliases nobody uses', advice: 'Drop it.' },
  'default-zone-permit': {
    severity: 'error',
    title: 'Default zones that permit',
    advice: 'Zone what must meet, then let the default zone deny.',
  },
  'defined-differs-from-active': {
    severity: 'warning',
    title: 'Zoning that is not activated',
    advice: 'Activate or take it back.',
  },
  'zone-name-hard': {
    severity: 'note',
    title: 'Zone names that say little',
    advice: 'Give it a name that says whom it joins.',
  },
};

const auditCheck = (id: AuditKind): Check => ({
  id,
  severity: audited[id].severity,
  title: audited[id].title,
  *find(view, { attach }) {
    for (const fabric of view.table('fabric').values())
      for (const line of attach().audit(fabric))
        if (line.kind === id)
          yield {
            subject: line.subject,
            says: line.says,
            advice: audited[id].advice,
            mend: auditMend(view, fabric, line),
          };
  },
});

/** Pairs of ports that zones should join, told apart by whether the defined set would. */
const notZoned = (id: 'not-zoned' | 'zone-not-active', title: string, waits: boolean): Check => ({
  id,
  severity: 'error',
  title,
  *find(view, { attach }) {
    for (const pairing of attach().pairings()) {
      yield null;
      const { host, array, mappings } = pairing;
      const byFabric = new Map(
        wantedGaps(pairing)
          .filter((gap) => gap.reason === 'not-zoned')
          .map((gap) => [gap.network, gap]),
      );
      for (const gap of byFabric.values()) {
        const waiting = waitingSet(view, gap);
        if ((waiting !== null) !== waits) continue;
        // One that is on the other fabric alone is told by the check of single fabrics.
        if (!waits && pairing.sessions.up.some((session) => session.transport === 'fc')) continue;
        const fabric = view.table('fabric').get(gap.network ?? '')?.name ?? '';
        yield {
          subject: aboutHost(host),
          says: waiting
            ? `${host.name} and ${array.name} would meet in fabric ${fabric} by zone set ${waiting.set}, which is not active as it stands.`
            : `${host.name} shares no active zone with ${array.name} in fabric ${fabric}; ${someOf(volumeNames(view, mappings))} ${mappings.length === 1 ? 'is' : 'are'} mapped.`,
          advice: waiting ? 'Activate it.' : 'Join them in a zone.',
          mend: mendFor({ view, host, array, gap }),
          trace: traceOf(view, host, mappings[0]!),
        };
      }
    }
  },
});

export const zoningChecks: Check[] = [
  notZoned('not-zoned', 'Mapped and not zoned', false),
  notZoned('zone-not-active', 'Zones that are only defined', true),
  ...(Object.keys(audited) as AuditKind[]).map(auditCheck),
  {
    id: 'merge-conflict',
    severity: 'error',
    title: 'Fabrics that cannot merge',
    *find(view) {
      for (const { fabrics, isl } of bridges(view)) {
        yield null;
        const sides = fabrics.map((fabric) => mergeSide(view, fabric)) as [MergeSide, MergeSide];
        const result = mergeFabrics(...sides);
        if (result.outcome === 'merged') continue;
        yield {
          subject: { kind: 'isl', id: isl.id, name: isl.name },
          says: `${isl.name} joins fabric ${fabrics[0].name} and fabric ${fabrics[1].name}, which stay apart: ${someOf(
            result.conflicts.map((one) => unstopped(one.message)),
            2,
          )}.`,
          advice: 'Make them equal before joining, or unplug the link.',
          mend: null,
        };
      }
    },
  },
  {
    id: 'domain-overlap',
    severity: 'error',
    title: 'Domains used twice',
    *find(view) {
      const joined = new Map<string, string>();
      for (const { fabrics } of bridges(view)) joined.set(fabrics[1].id, fabrics[0].id);
      const seen = new Map<string, string>();
      for (const row of view.table('switch').values()) {
        yield null;
        const key = `${joined.get(row.fabric) ?? row.fabric} ${row.domain}`;
        const other = seen.get(key);
        if (other)
          yield {
            subject: { kind: 'switch', id: row.id, name: row.name },
            says: `Domain ${row.domain} is in both ${other} and ${row.name}.`,
            advice: 'Change one of them while it is offline.',
            mend: null,
          };
        else seen.set(key, row.name);
      }
    },
  },
];

/** Links that are up between switches of two fabrics. */
function bridges(view: EstateView) {
  return [...view.table('isl').values()].flatMap((isl) => {
    const [a, b] = [isl.a, isl.b].map((id) => view.table('fabric').get(view.table('switch').get(id)?.fabric ?? ''));
    return isl.state === 'up' && a && b && a.id !== b.id ? [{ isl, fabrics: [a, b] as const }] : [];
  });
}
