import { imageOf } from '../copies/cut';
import { changed, deleted } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import type { OutsideLun } from '../estate/entities';
import { hostOf } from '../estate/relations';
import { keepsData } from '../move/outside';
import { draftArray } from '../operation/draft';
import { inquire, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { someOf } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import {
  askLun,
  askReadable,
  backOf,
  foundOn,
  lunChoices,
  noted,
  ownArrayChoices,
  refusalOn,
  refuseMounted,
  releasing,
  stateWords,
  unmounting,
} from './ask';
import { draftLuns, eachLun, lunsForm, lunsSchema, type LunsParams } from './luns-form';

/** What keeps a LUN from being taken behind its array with its data: hosts at work on it, reservations, whoever has it already. */
export function askKept(view: EstateView, asks: Inquiry, row: OutsideLun, now: Milliseconds): void {
  const found = foundOn(view, row, now);
  const mounted = view
    .table('hostDevice')
    .by('volume', row.volume)
    .find((device) => device.mountPoint !== null);
  askReadable(view, asks, row);
  if (found.pool !== null)
    asks.refuse(
      refusalOn(
        row,
        'import-in-other-pool',
        `${row.name} stands behind ${found.pool} already.`,
        'Let it go there first.',
      ),
    );
  const kept = keepsData(found);
  if (!kept.ok) {
    const reserved = kept.reason === 'import-reserved';
    asks.refuse(
      refusalOn(
        row,
        kept.reason,
        `${row.name}: ${kept.message}`,
        reserved
          ? 'Let that host release it first.'
          : 'Unmount it there, and wait until a minute has gone by without a write.',
        reserved ? releasing(view, row) : mounted ? { offer: unmounting(view, mounted) } : {},
      ),
    );
  } else if (mounted) refuseMounted(view, asks, row, mounted, 'import-mounted');
}

export const outsideKeep: OperationType<LunsParams> = {
  kind: 'outside.keep',
  verb: 'Take outside LUNs over with their data',
  summary:
    'LUNs of an outside array are shown to one array alone: hosts that stopped no longer see them there, and nothing is written on them.',
  schema: lunsSchema,
  form: { columns: [4, 5, 6, 7], fields: lunsForm },
  title: (p) => `Show ${someOf(p.luns)} to ${p.array} alone`,
  units: eachLun,
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(view, asks, array, p.luns[0]!, ['inspected'], 'Inspect it first; only then is it known what it holds.');
    if (row) askKept(view, asks, row, context.now);
    if (asks.refusals.length > 0 || !array || !row) return refused(asks.refusals);
    const volume = backOf(view, row);
    const mappings = view.table('mapping').by('volume', volume.id);
    const hosts = mappings.map((mapping) => hostOf(view, mapping).name).sort();
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Show ${row.name} to ${array.name} alone${hosts.length > 0 ? `: ${someOf(hosts)} no longer ${hosts.length === 1 ? 'sees' : 'see'} it` : ''}`,
      takes: 5 * SECOND,
      effects: [
        ...mappings.map((mapping) => deleted('mapping', mapping)),
        // What hosts knew of its file system stands on the volume.
        changed('volume', volume, { image: imageOf(view, volume) }),
        changed('outsideLun', row, {
          state: 'fenced',
          formerly: mappings.map(({ host, lun, access }) => ({ host, lun, access })),
          log: noted(row, context.now, `shown to ${array.name} alone`),
        }),
      ],
      notes: hosts.map((name) => `${name} holds its device until it looks again.`),
      next: [nextStep('Show it to hosts from here', 'outside.front', { array: array.name, lun: row.name })],
    });
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const rows = draftLuns(view, draft);
    const hosts = [
      ...new Set(
        rows.flatMap((row) =>
          view
            .table('mapping')
            .by('volume', row.volume)
            .map((mapping) => hostOf(view, mapping).name),
        ),
      ),
    ];
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        luns: {
          choices: lunChoices(view, array, (row) => {
            if (row.state !== 'inspected') return stateWords[row.state];
            const kept = keepsData(foundOn(view, row, context.now));
            return kept.ok ? null : kept.message.replace(/\.$/, '').toLowerCase();
          }),
          says:
            hosts.length > 0
              ? `${someOf(hosts)} ${hosts.length === 1 ? 'loses' : 'lose'} the way to it, and ${hosts.length === 1 ? 'gets' : 'get'} it again from here.`
              : 'What was inspected, and no host writes to.',
        },
      },
    };
  },
};
