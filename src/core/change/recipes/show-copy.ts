import { z } from 'zod';
import { families } from '../../attach/families';
import { arrayOf, hostOf, volumeOf } from '../../estate/relations';
import { draftHost, draftText, hostChoices } from '../../operation/draft';
import { folded, pick, several, the } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { subjectOf } from '../../operation/refusal';
import { cloneNames } from '../../protect/snapshot-clone';
import { draftPoints, pointChoices } from '../../protect/points-field';
import { askPoints, askProtected, namedWords, protectedFields } from '../../protect/subject';
import { someOf } from '../../units/counted';
import { namedFields, namedParams } from '../../protect/named';

const showSchema = z.object({
  ...namedParams,
  copy: z.string(),
  host: z.string().describe('Who sees the copy'),
  access: z.enum(['read-only', 'read-write']).default('read-only').describe('What is written goes with the view'),
  mount: flag.default(true).describe('Its file systems are mounted, too'),
});
type ShowParams = z.output<typeof showSchema>;

export const showCopy: RecipeType<ShowParams> = {
  kind: 'copy.show',
  verb: 'Show a copy to a host',
  summary:
    'A copy becomes a device of a host, with an identity of its own: to look at it, to take files out. What is written to it never reaches the copy.',
  schema: showSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copy: pick('Copy'),
      host: the.host,
      access: 'Access',
      mount: folded({ label: 'Mount it', control: 'switch' }),
    },
  },
  title: (p) => `Show ${p.copy} of ${namedWords(p)} to ${p.host}`,
  unfold(view, p) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const [point] = subject ? askPoints(view, asks, subject, [p.copy], 'copy') : [];
    const host = asks.find('host', p.host, 'host');
    if (!subject || !point || !host) return { ok: false, refusals: asks.refusals };
    const names = cloneNames(view, point, undefined, 1);
    const named = p.workload ? { workload: p.workload } : { array: p.array, volume: p.volume };
    const operations: Written[] = [{ do: 'snapshot.clone', ...named, copy: point.name, shown: true }];
    const byArray = new Map<string, string[]>();
    for (const copy of point.copies) {
      const { name } = arrayOf(view, volumeOf(view, copy));
      byArray.set(name, [...(byArray.get(name) ?? []), ...names.get(copy.id)!]);
    }
    for (const [array, volumes] of byArray)
      operations.push({ do: 'mapping.create', host: host.name, array, volumes, access: p.access });
    operations.push({ do: 'host.rescan', host: host.name });
    if (p.mount)
      for (const copy of point.copies) {
        if (copy.image === null) continue;
        const [name] = names.get(copy.id)!;
        operations.push({
          do: 'host-device.mount',
          host: host.name,
          device: name,
          mountPoint: `${families[host.os].mountBase}/copies/${name}`,
        });
      }
    return { ok: true, operations };
  },
  foretell(view, draft, context) {
    const fields = {
      ...protectedFields(view, draft),
      copy: { choices: pointChoices(view, draft, context.now), says: '' },
      host: { choices: hostChoices(view), says: '' },
      access: {
        choices: [
          { value: 'read-only', label: 'Read only' },
          { value: 'read-write', label: 'Read and write' },
        ],
        suggested: 'read-only',
        says: 'What is written goes when the copy is hidden; the copy stays as it is.',
      },
      mount: { suggested: 'true', says: 'Under /copies at its mount base.' },
    };
    const [point] = draftPoints(view, draft);
    const host = draftHost(view, draft);
    if (point) {
      const names = [...cloneNames(view, point, undefined, 1).values()].flat();
      fields.copy.says = `Seen as ${someOf(names)}, with new identities; it takes no room until it is written to.`;
    }
    if (host) fields.host.says = `${host.name} finds new devices; what it has stays.`;
    return { fields };
  },
};

const hideSchema = z.object({
  host: z.string(),
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one view'),
});

export const hideCopy: RecipeType<z.output<typeof hideSchema>> = {
  kind: 'copy.hide',
  verb: 'Hide a shown copy',
  summary: 'Takes a shown copy away from its host again; what was written to it goes, the copy stays.',
  schema: hideSchema,
  form: { columns: [3, 4, 7], fields: { host: the.host, array: the.array, volumes: several('Shown copies') } },
  title: (p) => `Hide ${someOf(p.volumes)} from ${p.host}`,
  unfold(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const array = asks.find('array', p.array, 'array');
    const volumes = array ? p.volumes.flatMap((name) => asks.find('volume', name, 'volumes', array) ?? []) : [];
    for (const volume of volumes)
      if (!volume.view)
        asks.refuse({
          code: 'no-view',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} is no copy that is only shown.`,
          mend: 'Take its mapping away and retire it instead.',
        });
    if (!host || !array || asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const names = volumes.map((volume) => volume.name);
    const mounted = view
      .table('hostDevice')
      .by('host', host.id)
      .filter((device) => device.mountPoint !== null && volumes.some((volume) => volume.id === device.volume));
    const mapped = volumes.filter((volume) =>
      view
        .table('mapping')
        .by('volume', volume.id)
        .some((mapping) => mapping.host === host.id),
    );
    return {
      ok: true,
      operations: [
        ...mounted.map((device) => ({ do: 'host-device.unmount', host: host.name, device: device.name })),
        ...(mapped.length > 0
          ? [
              {
                do: 'mapping.delete',
                host: host.name,
                array: array.name,
                volumes: mapped.map((volume) => volume.name),
              },
            ]
          : []),
        { do: 'host.rescan', host: host.name },
        { do: 'volume.delete', array: array.name, volumes: names, confirm: names, keepDays: 0 },
      ],
    };
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const array = lookUp(view, 'array', draftText(draft, 'array'));
    const shown = host
      ? view
          .table('mapping')
          .by('host', host.id)
          .map((mapping) => volumeOf(view, mapping))
          .filter((volume) => volume.view && (!array || volume.array === array.id))
      : [];
    const hosts = new Set(
      [...view.table('mapping').values()].flatMap((mapping) =>
        volumeOf(view, mapping).view ? [hostOf(view, mapping).name] : [],
      ),
    );
    return {
      fields: {
        host: {
          choices: hostChoices(view),
          says: hosts.size > 0 ? `Copies are shown to ${someOf([...hosts])}.` : 'No copy is shown.',
        },
        array: {
          choices: [...new Set(shown.map((volume) => arrayOf(view, volume).name))].map((value) => ({
            value,
            label: value,
          })),
          ...(shown[0] ? { suggested: arrayOf(view, shown[0]).name } : {}),
        },
        volumes: {
          choices: shown.map((volume) => ({ value: volume.name, label: volume.name })),
          says: 'What was written to them goes.',
        },
      },
    };
  },
};
