import { z } from 'zod';
import { the } from '../operation/form';
import { changed, deleted } from '../estate/effects';
import { ruledAnew } from '../iscsi/target';
import { draftHost, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { someOf } from '../units/counted';
import { clusterOf, volumeOf } from '../estate/relations';

const schema = z.object({ host: z.string() });
type Params = z.output<typeof schema>;

export const hostDelete: OperationType<Params> = {
  kind: 'host.delete',
  verb: 'Retire a host',
  summary: 'Takes a host off the record. Refused while volumes are mapped to it.',
  schema,
  form: {
    columns: [4, 6, 7],
    fields: {
      host: the.host,
    },
  },
  title: (p) => `Retire host ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const mappings = host ? view.table('mapping').by('host', host.id) : [];
    if (host && mappings.length > 0)
      asks.refuse({
        code: 'still-mapped',
        field: 'host',
        subject: subjectOf('host', host),
        message: `${host.name} has ${mappings.length} ${mappings.length === 1 ? 'volume' : 'volumes'} mapped: ${someOf(mappings.map((mapping) => volumeOf(view, mapping).name))}.`,
        mend: 'Take the mappings away first.',
      });
    if (asks.refusals.length > 0 || !host) return refused(asks.refusals);
    const lastOfCluster =
      host.cluster && view.table('host').countBy('cluster', host.cluster) === 1 ? clusterOf(view, host) : undefined;
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Take ${host.name} off the record`,
      takes: 2 * SECOND,
      effects: [
        ...view
          .table('hostDevice')
          .by('host', host.id)
          .map((row) => deleted('hostDevice', row)),
        ...view
          .table('initiator')
          .by('host', host.id)
          .map((row) => deleted('initiator', row)),
        ...view
          .table('interface')
          .by('host', host.id)
          // A Fibre Channel port stays where it is plugged in and is nobody's again.
          .map((row) => (row.kind === 'fc' ? changed('interface', row, { host: null }) : deleted('interface', row))),
        ...view
          .table('login')
          .by('host', host.id)
          .map((row) => deleted('login', row)),
        ...view
          .table('initiator')
          .by('host', host.id)
          .flatMap((row) => view.table('access').by('initiator', row.id))
          .map((row) => deleted('access', row)),
        ...ruledAnew(view, { [host.name]: null }),
        ...view
          .table('limitUse')
          .by('host', host.id)
          .map((use) => deleted('limitUse', use)),
        // What it reserved others may write again.
        ...view
          .table('volume')
          .by('reservedBy', host.id)
          .map((volume) => changed('volume', volume, { reservedBy: null })),
        deleted('host', host),
        ...(lastOfCluster ? [deleted('cluster', lastOfCluster)] : []),
      ],
      notes: lastOfCluster ? [`${lastOfCluster.name} has no member left and goes as well.`] : [],
    });
  },
  foretell(view, draft) {
    const fields: Foretold['fields'] = { host: {} };
    fields.host!.choices = hostChoices(view).map((choice) => {
      const mapped = view
        .table('mapping')
        .countBy('host', view.table('host').by('name', `\n${choice.value.toLowerCase()}`)[0]?.id ?? '');
      return { ...choice, ...(mapped > 0 ? { unfit: `has ${mapped} mapped` } : {}) };
    });
    const host = draftHost(view, draft);
    if (host)
      fields.host!.says = `${view.table('initiator').countBy('host', host.id)} initiators and ${view.table('interface').countBy('host', host.id)} interfaces go with it.`;
    return { fields };
  },
};
