import { legOf, mappingsOf } from '../copies/legs';
import { resultOf } from '../stretch/decide';
import { NOTHING, rule, wrong, type Rule } from './rule';

/** Both legs of a stretched volume are one to a host: it sees them under one LUN. */
const oneLun = rule({
  of: 'mapping',
  code: 'stretched-lun-differs',
  asks: {
    replication: (row, view) =>
      row.stretch === null
        ? []
        : [...row.primaries, ...row.secondaries].flatMap((id) =>
            view
              .table('mapping')
              .by('volume', id)
              .map((mapping) => mapping.id),
          ),
  },
  broken(view, mapping) {
    const leg = mapping.subsystem === null ? legOf(view, mapping.volume) : null;
    if (!leg) return NOTHING;
    const other = mappingsOf(view, mapping.host, mapping.volume).find(
      (one) => one.subsystem === null && one.lun !== mapping.lun,
    );
    if (!other) return NOTHING;
    const host = view.table('host').get(mapping.host)?.name ?? 'A host';
    return wrong(
      `${host} would see ${leg.row.name} as LUN ${mapping.lun} at one site and as LUN ${other.lun} at the other.`,
      'Show both legs under one LUN.',
    );
  },
});

/** A stretched pair has somebody who decides, and never do both of its sites serve alone. */
const pairDecides = rule({
  of: 'replication',
  code: 'stretched-pair',
  reads: ['stretch', 'witness'],
  broken(_view, { name, stretch, witness }) {
    if ((stretch === null) !== (witness === null))
      return wrong(
        `${name} would ${stretch === null ? 'have a witness without being stretched' : 'be stretched without a witness'}.`,
        'Leave it as it is.',
      );
    if (stretch === null) return NOTHING;
    const alone = (['A', 'B'] as const).every((site) => resultOf(stretch.pair[site]) === 'SOLO');
    return alone ? wrong(`Both sites of ${name} would serve alone.`, 'Leave it as it is.') : NOTHING;
  },
});

export const stretchRules: readonly Rule[] = [oneLun, pairDecides];
