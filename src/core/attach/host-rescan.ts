import { shownAs } from '../copies/legs';
import { z } from 'zod';
import { the } from '../operation/form';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { rowOf, type Host } from '../estate/entities';
import { draftHost, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType, type PlanContext } from '../operation/operation';
import { SECOND } from '../units/duration';
import { pathFinder } from './paths';

const schema = z.object({ host: z.string() });
type Params = z.output<typeof schema>;

export interface Found {
  effects: Effect[];
  appears: string[];
  goes: string[];
  /** Mapped volumes that the host cannot reach, with the reason. */
  unseen: string[];
}

/**
 * What the host finds when it looks: a device for each mapped volume it has a path to; devices no longer mapped go unless mounted.
 * With `only`, it looks for those volumes alone, as when an array has announced them.
 */
export function look(view: EstateView, host: Host, context: PlanContext, only?: ReadonlySet<string>): Found {
  const finder = pathFinder(view);
  const result: Found = { effects: [], appears: [], goes: [], unseen: [] };
  const devices = view.table('hostDevice').by('host', host.id);
  const taken = new Set(devices.map((device) => device.name));
  /** Volumes that were found at this look, so that both legs of a stretched one make one device. */
  const appeared = new Set<string>();
  const mappings = [...view.table('mapping').by('host', host.id)].sort(
    (a, b) => a.lun - b.lun || (a.id < b.id ? -1 : 1),
  );
  for (const mapping of mappings) {
    if (only && !only.has(mapping.volume)) continue;
    const leg = volumeOf(view, mapping);
    const volume = view.table('volume').get(shownAs(view, leg.id))!;
    const device = devices.find((row) => row.volume === volume.id);
    const paths = finder.paths(mapping);
    if (paths.usable === 0) {
      if (!device)
        result.unseen.push(
          `${leg.name} is not seen: ${paths.missing[0]?.message ?? 'the host shares neither a subnet nor a fabric with its array'}.`,
        );
      continue;
    }
    if (device) {
      if (device.size !== volume.size || device.lun !== mapping.lun)
        result.effects.push(changed('hostDevice', device, { size: volume.size, lun: mapping.lun }));
      continue;
    }
    if (appeared.has(volume.id)) continue;
    appeared.add(volume.id);
    let number = 1;
    while (taken.has(`disk${number}`)) number += 1;
    const name = `disk${number}`;
    taken.add(name);
    result.appears.push(`${name} (${volume.name})`);
    // What another host has written there is read here, too.
    const written = view
      .table('hostDevice')
      .by('volume', volume.id)
      .find((row) => row.fileSystem !== null);
    result.effects.push(
      created(
        'hostDevice',
        rowOf('hostDevice', {
          id: context.newId('hostDevice'),
          name,
          host: host.id,
          volume: volume.id,
          lun: mapping.lun,
          naa: volume.naa,
          size: volume.size,
          // What no host knows any more stands on the volume all the same.
          fileSystem: written?.fileSystem ?? volume.image?.fileSystem ?? null,
          fileSystemSize: written?.fileSystemSize ?? volume.image?.size ?? 0,
          initialised: written?.initialised ?? volume.image !== null,
          mountPoint: null,
          used: written?.used ?? volume.image?.used ?? 0,
          free: written?.free ?? volume.image?.free ?? [],
          writeRate: 0,
        }),
      ),
    );
  }
  for (const device of only ? [] : devices) {
    if (device.mountPoint || mappings.some((mapping) => shownAs(view, mapping.volume) === device.volume)) continue;
    result.goes.push(device.name);
    result.effects.push(deleted('hostDevice', device));
  }
  return result;
}

/** Namespaces of a subsystem that hosts hear of by an event once they may connect (NVM Express, Namespace Attribute Changed): no rescan. */
export function announced(view: EstateView, subsystem: string, context: PlanContext): { host: string; found: Found }[] {
  const byHost = new Map<string, Set<string>>();
  for (const mapping of view.table('mapping').by('subsystem', subsystem))
    byHost.set(mapping.host, (byHost.get(mapping.host) ?? new Set<string>()).add(mapping.volume));
  return [...byHost]
    .map(([id, volumes]) => {
      const host = view.table('host').get(id)!;
      return { host: host.name, found: look(view, host, context, volumes) };
    })
    .filter(({ found }) => found.effects.length > 0);
}

const words = ({ appears, goes, unseen }: Found): string => {
  const parts = [];
  if (appears.length > 0) parts.push(`${appears.join(', ')} ${appears.length === 1 ? 'appears' : 'appear'}`);
  if (goes.length > 0) parts.push(`${goes.join(', ')} ${goes.length === 1 ? 'goes' : 'go'}`);
  if (parts.length === 0) parts.push('nothing new');
  if (unseen.length > 0) parts.push(`${unseen.length} mapped but not seen`);
  return parts.join(', ');
};

export const hostRescan: OperationType<Params> = {
  kind: 'host.rescan',
  verb: 'Rescan a host',
  summary: 'The host looks again for what is mapped to it.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
    },
  },
  title: (p) => `Rescan ${p.host}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    if (!host) return refused(asks.refusals);
    const found = look(view, host, context);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Rescan ${host.name}: ${words(found)}`,
      takes: 4 * SECOND,
      effects: found.effects,
      notes: found.unseen,
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = { host: { choices: hostChoices(view) } };
    const host = draftHost(view, draft);
    if (host) {
      const found = look(view, host, context);
      fields.host!.says = `${words(found)}.${found.unseen[0] ? ` ${found.unseen[0]}` : ''}`;
    }
    return { fields };
  },
};
