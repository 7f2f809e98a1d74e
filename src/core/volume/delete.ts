import { z } from 'zod';
import { deleted } from '../estate/effects';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { SECOND } from '../units/duration';

const schema = z.object({ array: z.string(), volumes: z.array(z.string()).min(1, 'name at least one volume') });
type Params = z.output<typeof schema>;

export const volumeDelete: OperationType<Params> = {
  kind: 'volume.delete',
  verb: 'Retire volumes',
  summary: 'Gives volumes back to their pool. Refused while mapped; written data is lost for good.',
  schema,
  title: (p) =>
    `Retire ${p.volumes.length === 1 ? `volume ${p.volumes[0]}` : `${p.volumes.length} volumes`} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volumes[0]!, 'volumes', array);
    const hostName = (id: string) => view.table('host').get(id)?.name ?? id;
    if (volume) {
      const mappings = view.table('mapping').by('volume', volume.id);
      if (mappings.length > 0)
        asks.refuse({
          code: 'still-mapped',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} is mapped to ${mappings.map((mapping) => hostName(mapping.host)).join(', ')}.`,
          mend: 'Take the mapping away first.',
        });
      const devices = view.table('hostDevice').by('volume', volume.id);
      if (mappings.length === 0 && devices.length > 0)
        asks.refuse({
          code: 'still-known',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${hostName(devices[0]!.host)} still holds ${devices[0]!.name} for ${volume.name}.`,
          mend: `Rescan ${hostName(devices[0]!.host)}, so that it lets go of the device.`,
        });
    }
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const runs = view.table('extent').by('volume', volume.id);
    const pool = view.table('pool').get(volume.pool)!;
    const freed = view.occupancy.allocated(volume.id) * pool.extentSize;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Retire ${volume.name}: ${formatBytes(freed)} return to ${pool.name}`,
      takes: 2 * SECOND,
      effects: [...runs.map((run) => deleted('extent', run)), deleted('volume', volume)],
      destroys: volume.written > 0 ? `${formatBytes(volume.written, 'used')} written on ${volume.name}` : null,
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, volumes: {} };
    if (!array) return { fields };
    fields.volumes!.choices = [...view.table('volume').by('array', array.id)].sort(byName).map((volume) => {
      const mapped = view.table('mapping').by('volume', volume.id).length;
      return { value: volume.name, label: volume.name, ...(mapped > 0 ? { unfit: 'is mapped' } : {}) };
    });
    const chosen = Array.isArray(draft.volumes) ? (draft.volumes as string[]) : [draftText(draft, 'volumes')];
    const rows = chosen.flatMap((ref) => lookUp(view, 'volume', ref, array.id) ?? []);
    const written = rows.reduce((sum, row) => sum + row.written, 0);
    const freed = rows.reduce(
      (sum, row) => sum + view.occupancy.allocated(row.id) * (view.table('pool').get(row.pool)?.extentSize ?? 0),
      0,
    );
    if (rows.length > 0)
      fields.volumes!.says =
        written > 0
          ? `${formatBytes(written, 'used')} of written data are lost for good; ${formatBytes(freed)} return.`
          : `Nothing is written; ${formatBytes(freed)} return.`;
    return { fields };
  },
};
