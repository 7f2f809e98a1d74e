import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import { z } from 'zod';
import type { Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { lookUpTarget, targetByIqn, targetsOf, targetText } from '../iscsi/target';
import { parseIscsiName } from '../naming/iscsi';
import { byName } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';

const record = { kind: 'record', id: '', name: 'Name service' } as const;
/** What of the name service is meant, by its name. */
export const byItsName = z.object({ name: z.string() });

/** Hosts that ask a name server: their paths move with domains and sets. */
const asking = (view: EstateView): string[] =>
  [...view.table('host').values()].filter((host) => host.discovery === 'isns').map((host) => host.id);

/** iSCSI names of hosts and arrays that are given by their own names, or as they are. */
export function readNodes(
  view: EstateView,
  asks: Inquiry,
  refs: readonly string[],
  month: string,
  field = 'members',
): string[] {
  return [
    ...new Set(
      refs.flatMap((ref) => {
        const target = lookUpTarget(view, ref);
        if (target) return [target.iqn];
        const host = lookUp(view, 'host', ref);
        if (host) {
          const names = view
            .table('initiator')
            .by('host', host.id)
            .map((row) => row.name)
            .filter((name) => /^(iqn|eui|naa)\./.test(name));
          if (names.length === 0)
            asks.refuse({
              code: 'no-initiator',
              field,
              subject: subjectOf('host', host),
              message: `${host.name} has no iSCSI name on record.`,
              mend: 'Register one first.',
            });
          return names;
        }
        return asks.value(parseIscsiName(ref, month), field, { kind: 'initiator', name: ref }) ?? [];
      }),
    ),
  ];
}

export const nodeChoices = (view: EstateView): Choice[] => [
  ...[...view.table('array').values()]
    .sort(byName)
    .flatMap((row) => targetsOf(view, row.id))
    .map((row) => ({ value: targetText(view, row), label: `${targetText(view, row)}, target` })),
  ...[...view.table('host').values()]
    .filter((row) => row.presents !== null)
    .sort(byName)
    .map((row) => ({ value: row.name, label: row.name })),
];
export const nodeText = (view: EstateView, iqn: string): string => {
  const target = targetByIqn(view, iqn);
  const initiator = view.table('initiator').by('iqn', iqn)[0];
  return (target && targetText(view, target)) ?? (initiator && hostOf(view, initiator).name) ?? iqn;
};
export const choicesOf = (view: EstateView, kind: 'discoveryDomain' | 'domainSet' | 'nameServer'): Choice[] =>
  [...view.table(kind).values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));

/** Finishes a plan of the name service: who gains and loses paths, and who must not be cut off. */
export function settle(view: EstateView, asks: Inquiry, title: string, effects: Effect[], field: string) {
  if (asks.refusals.length > 0) return refused(asks.refusals);
  const around = pathsAround(view, effects, mappingsOfHosts(view, asking(view)));
  refuseCut(asks, around, { kind: 'discoveryDomain', name: title }, field);
  return asks.refusals.length > 0
    ? refused(asks.refusals)
    : planned({ device: record, title, takes: SECOND, effects, notes: lossNotes(around) });
}
