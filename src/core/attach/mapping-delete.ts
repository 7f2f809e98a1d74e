import { deviceAt, mappingsOf } from '../copies/legs';
import { z } from 'zod';
import { folded, pick, the } from '../operation/form';
import { deleted, type Effect } from '../estate/effects';
import { byName, draftHost, draftList, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { mappingOf, pathFinder } from './paths';
import { arrayOf, volumeOf } from '../estate/relations';

const schema = z.object({
  host: z.string().optional(),
  cluster: z.string().optional().describe('Instead of a host: all its members'),
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
});
type Params = z.output<typeof schema>;

export const mappingDelete: OperationType<Params> = {
  kind: 'mapping.delete',
  verb: 'Take a mapping away',
  summary: 'Hides volumes from a host again. Refused while the host has one mounted.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      array: the.array,
      volumes: the.volumes,
      cluster: folded(pick('Or cluster')),
    },
  },
  title: (p) =>
    `Take ${p.volumes.length === 1 ? p.volumes[0] : `${p.volumes.length} volumes`} of ${p.array} away from ${p.cluster ?? p.host}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p) {
    const asks = inquire(view);
    const cluster = p.cluster ? asks.find('cluster', p.cluster, 'cluster') : undefined;
    const one = p.cluster ? undefined : asks.find('host', p.host ?? '', 'host');
    const members = cluster && [...view.table('host').by('cluster', cluster.id)].sort(byName);
    const hosts = members ?? (one ? [one] : []);
    const who = cluster?.name ?? one?.name ?? '';
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volumes[0]!, 'volumes', array);
    const seen = volume
      ? hosts.flatMap((host) => {
          const mapping = mappingOf(view, host.id, volume.id);
          return mapping ? [{ host, mapping }] : [];
        })
      : [];
    if (volume && hosts.length > 0 && seen.length === 0)
      asks.refuse({
        code: 'not-mapped',
        field: 'volumes',
        subject: subjectOf('volume', volume),
        message: `${volume.name} is not mapped to ${who}.`,
        mend: 'Leave it out.',
      });
    const notes: string[] = [];
    const effects: Effect[] = [];
    const finder = pathFinder(view);
    for (const { host, mapping } of seen) {
      const device = deviceAt(view, host.id, mapping.volume);
      // The other leg of a stretched volume goes on showing it.
      const left = mappingsOf(view, host.id, volume!.id).filter((one) => one.id !== mapping.id);
      if (device?.mountPoint && !left.some((one) => finder.count(one).usable > 0))
        asks.refuse({
          code: 'in-use',
          field: 'volumes',
          subject: subjectOf('volume', volume!),
          message: `${host.name} has ${volume!.name} mounted at ${device.mountPoint}.`,
          mend: `Unmount ${device.name} at ${host.name} first.`,
        });
      effects.push(deleted('mapping', mapping));
      // A namespace goes with an event; a SCSI host keeps the device until it looks again.
      if (device && mapping.subsystem && left.length === 0) effects.push(deleted('hostDevice', device));
      else if (device && left.length === 0) notes.push(`${host.name} holds ${device.name} until it looks again.`);
    }
    if (asks.refusals.length > 0 || !array || !volume || seen.length === 0) return refused(asks.refusals);
    const [first] = seen;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Take ${volume.name} away from ${who}: ${first!.mapping.subsystem ? 'namespace' : 'LUN'} ${first!.mapping.lun} is free again`,
      takes: 2 * SECOND,
      effects,
      notes,
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      cluster: {
        choices: [...view.table('cluster').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
        says: 'Instead of one host.',
      },
      array: {},
      volumes: {},
    };
    if (!host) return { fields };
    const mappings = view.table('mapping').by('host', host.id);
    const arrays = new Map(
      mappings.map((mapping) => arrayOf(view, volumeOf(view, mapping))).map((row) => [row.id, row]),
    );
    fields.array!.choices = [...arrays.values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));
    if (arrays.size === 1) fields.array!.suggested = [...arrays.values()][0]!.name;
    if (mappings.length === 0) fields.host!.says = 'No volume is mapped to it.';
    const array = [...arrays.values()].find((row) => row.name === draft.array || row.id === draft.array);
    if (!array) return { fields };
    fields.volumes!.choices = mappings.flatMap((mapping) => {
      const volume = volumeOf(view, mapping);
      const device = deviceAt(view, host.id, volume.id);
      if (volume.array !== array.id) return [];
      return [
        {
          value: volume.name,
          label: `${volume.name}, LUN ${mapping.lun}`,
          ...(device?.mountPoint ? { unfit: `is mounted at ${device.mountPoint}` } : {}),
        },
      ];
    });
    const count = draftList(draft, 'volumes').length;
    if (count > 0)
      fields.volumes!.says = `${count} ${count === 1 ? 'LUN is' : 'LUNs are'} free again; the host lets go at its next rescan.`;
    return { fields };
  },
};
