import { z } from 'zod';
import { folded, such, the } from '../../operation/form';
import type { ArrayRow, Volume } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf, hostOf, volumeOf } from '../../estate/relations';
import { sharedFabrics } from '../../attach/ways';
import { byName, draftArray, draftList, hostChoices } from '../../operation/draft';
import { inquire } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { subjectOf } from '../../operation/refusal';
import { KEEP_DAYS } from '../../pool/choices';
import { formatBytes } from '../../units/bytes';
import { formatRate } from '../../units/rate';
import { askReceivers, clusterChoices, draftReceivers, naming, type Receivers } from '../../attach/receivers';
import { someOf } from '../../units/counted';

export const takeBackSchema = z.object({
  host: z.string().optional(),
  cluster: z.string().optional().describe('Instead of a host: all its members'),
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  retire: flag.default(true).describe('Retire the volumes, too; they can be restored for a while'),
  confirm: z.array(z.string()).default([]).describe('The names once more, of volumes that hold data and are retired'),
  keepDays: z.coerce.number().int().min(0).max(365).default(KEEP_DAYS),
});
type Params = z.output<typeof takeBackSchema>;

/** Devices of the volumes at the hosts. */
const devicesOf = (view: EstateView, to: Receivers, volumes: readonly Volume[]) =>
  to.hosts.flatMap((host) =>
    view
      .table('hostDevice')
      .by('host', host.id)
      .filter((device) => volumes.some((volume) => volume.id === device.volume))
      .map((device) => ({ host, device })),
  );

/** Hosts that have nothing else on the array afterwards: their zones go, too. */
const leavers = (view: EstateView, to: Receivers, array: ArrayRow, volumes: readonly Volume[]) =>
  to.hosts.filter(
    (host) =>
      !view
        .table('mapping')
        .by('host', host.id)
        .some(
          (mapping) =>
            volumeOf(view, mapping).array === array.id && !volumes.some((volume) => volume.id === mapping.volume),
        ),
  );

export const takeBackFields = {
  host: the.host,
  cluster: the.cluster,
  array: the.array,
  volumes: the.volumes,
  retire: { label: 'Retire', control: 'switch' as const },
  confirm: such('Names again', 'name of the volume'),
  keepDays: folded('Keep, days'),
};

export const takeBackStorage: RecipeType<Params> = {
  kind: 'storage.take-back',
  verb: 'Take storage back',
  summary:
    'Checks that nobody writes, unmounts, removes devices, takes mappings and then zones away, and retires the volumes.',
  schema: takeBackSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: takeBackFields,
  },
  title: (p) => `Take ${someOf(p.volumes)} back from ${p.cluster ?? p.host}`,

  unfold(view, p) {
    const asks = inquire(view);
    const to = askReceivers(view, asks, p);
    const array = asks.find('array', p.array, 'array');
    const volumes = array ? p.volumes.flatMap((ref) => asks.find('volume', ref, 'volumes', array) ?? []) : [];
    if (!to || !array || asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const devices = devicesOf(view, to, volumes);
    for (const { host, device } of devices)
      if (device.writeRate > 0)
        asks.refuse({
          code: 'in-use',
          field: 'volumes',
          subject: subjectOf('hostDevice', device),
          message: `${host.name} writes ${formatRate(device.writeRate)} to ${device.mountPoint ?? device.name}.`,
          mend: 'Stop what writes there first.',
        });
    for (const volume of volumes) {
      const mappings = view.table('mapping').by('volume', volume.id);
      const others = mappings.filter((mapping) => !to.hosts.some((host) => host.id === mapping.host));
      if (mappings.length === others.length)
        asks.refuse({
          code: 'not-mapped',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} is not mapped to ${to.name}.`,
          mend: 'Leave it out.',
        });
      else if (p.retire && others.length > 0)
        asks.refuse({
          code: 'still-mapped',
          field: 'retire',
          subject: subjectOf('volume', volume),
          message: `${volume.name} is mapped to ${others.map((mapping) => hostOf(view, mapping).name).join(', ')} as well.`,
          mend: 'Keep the volume, or take it back from them first.',
        });
    }
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const going = leavers(view, to, array, volumes);
    const names = volumes.map((volume) => volume.name);
    const on = (host: { name: string }, device: { name: string }) => ({ host: host.name, device: device.name });
    const mapped = to.hosts.filter((host) =>
      view
        .table('mapping')
        .by('host', host.id)
        .some((mapping) => volumes.some((volume) => volume.id === mapping.volume)),
    );
    const operations: Written[] = [
      ...devices
        .filter(({ device }) => device.mountPoint)
        .map(({ host, device }) => ({ do: 'host-device.unmount', ...on(host, device) })),
      ...devices.map(({ host, device }) => ({ do: 'host-device.remove', ...on(host, device) })),
      ...(to.cluster && mapped.length === to.hosts.length
        ? [{ do: 'mapping.delete', ...naming(to), array: array.name, volumes: names }]
        : mapped.map((host) => ({
            do: 'mapping.delete',
            host: host.name,
            array: array.name,
            volumes: names.filter((_, k) =>
              view
                .table('mapping')
                .by('host', host.id)
                .some((mapping) => mapping.volume === volumes[k]!.id),
            ),
          }))),
      ...partSteps(view, to, going, array),
      ...(p.retire
        ? [
            {
              do: 'volume.delete',
              array: array.name,
              volumes: names,
              confirm: p.confirm,
              keepDays: p.keepDays,
            },
          ]
        : []),
    ];
    return { ok: true, operations };
  },

  foretell(view, draft) {
    const to = draftReceivers(view, draft);
    const array = draftArray(view, draft);
    const fields: ReturnType<RecipeType['foretell']>['fields'] = {
      host: { choices: hostChoices(view), says: 'Who gives it back.' },
      cluster: { choices: clusterChoices(view), says: 'Instead of one host.' },
      array: {},
      volumes: {},
      retire: { suggested: 'true' },
      confirm: { says: 'Of volumes that hold data, once more.' },
      keepDays: { suggested: String(KEEP_DAYS), says: 'So long they can be restored, while there is room.' },
    };
    if (!to) return { fields };
    const mapped = to.hosts.flatMap((host) =>
      view
        .table('mapping')
        .by('host', host.id)
        .map((mapping) => volumeOf(view, mapping)),
    );
    const arrays = new Map(mapped.map((volume) => [volume.array, arrayOf(view, volume)]));
    fields.array!.choices = [...arrays.values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));
    if (arrays.size === 1) fields.array!.suggested = [...arrays.values()][0]!.name;
    if (!array) return { fields };
    const here = [...new Set(mapped.filter((volume) => volume.array === array.id))].sort(byName);
    fields.volumes!.choices = here.map((volume) => {
      const busy = devicesOf(view, to, [volume]).find(({ device }) => device.writeRate > 0);
      return {
        value: volume.name,
        label: `${volume.name}, ${formatBytes(volume.size)}`,
        ...(busy ? { unfit: `${busy.host.name} writes ${formatRate(busy.device.writeRate)}` } : {}),
      };
    });
    const chosen = here.filter((volume) => draftList(draft, 'volumes').includes(volume.name));
    if (chosen.length === 0) return { fields };
    const devices = devicesOf(view, to, chosen);
    const mounted = devices.filter(({ device }) => device.mountPoint).length;
    const going = leavers(view, to, array, chosen);
    fields.volumes!.says = `${mounted} mounted, ${devices.length} ${devices.length === 1 ? 'device' : 'devices'}.`;
    fields.array!.says =
      going.length === 0
        ? 'Zones stay: more is mapped from there.'
        : `${going.map((host) => host.name).join(', ')} then ${going.length === 1 ? 'has' : 'have'} nothing there: their zones go.`;
    fields.retire!.says = `${formatBytes(chosen.reduce((sum, volume) => sum + volume.size, 0))} are no longer promised.`;
    return { fields };
  },
};

function partSteps(view: EstateView, to: Receivers, going: Receivers['hosts'], array: ArrayRow): Written[] {
  const fabrics = [...new Set(going.flatMap((host) => sharedFabrics(view, host, array)))];
  return fabrics.flatMap((id): Written[] => {
    const fabric = view.table('fabric').get(id)!.name;
    return to.cluster && going.length === to.hosts.length
      ? [{ do: 'zoning.part', fabric, cluster: to.cluster.name, array: array.name }]
      : going
          .filter((host) => sharedFabrics(view, host, array).includes(id))
          .map((host) => ({ do: 'zoning.part', fabric, host: host.name, array: array.name }));
  });
}
