import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ActiveZone, type Fabric } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameKey } from '../estate/table';
import { deviceByWwpn } from '../fabric/devices';
import { zoneNameFrom } from '../fabric/member';
import type { ZonePlan } from '../fabric/zone-plan';
import type { PlanContext } from '../operation/operation';
import { setFor } from './ask';

/** How a port is named in a defined zone: by an alias that stands for it alone, else one made for it. */
function aliasFor(
  view: EstateView,
  fabric: Fabric,
  wwpn: string,
  made: Map<string, string>,
  effects: Effect[],
  context: PlanContext,
): string {
  const own = view
    .table('alias')
    .by('fabric', fabric.id)
    .find((alias) => alias.members.length === 1 && alias.members[0] === `wwpn:${wwpn}`);
  if (own) return `alias:${own.name}`;
  const known = made.get(wwpn);
  if (known) return `alias:${known}`;
  const device = deviceByWwpn(view, wwpn);
  if (!device?.ownerName) return `wwpn:${wwpn}`;
  const stem = zoneNameFrom(
    fabric.aliasPattern
      .replace('<host>', device.ownerName)
      .replace('<hostport>', device.name)
      .replace('<array>', device.ownerName),
  );
  const taken = (name: string) =>
    (['alias', 'zone'] as const).some((kind) => view.table(kind).by('name', nameKey(fabric.id, name)).length > 0) ||
    [...made.values()].includes(name);
  let name = stem;
  for (let n = 2; taken(name); n++) name = `${stem.slice(0, 61)}-${n}`;
  made.set(wwpn, name);
  effects.push(
    created(
      'alias',
      rowOf('alias', { id: context.newId('alias'), fabric: fabric.id, name, members: [`wwpn:${wwpn}`] }),
    ),
  );
  return `alias:${name}`;
}

/** Carries a plan out on the active zones and, alike, on the defined ones; changes that wait in the defined set go on waiting. */
export function zoningEffects(view: EstateView, fabric: Fabric, plan: ZonePlan, context: PlanContext): Effect[] {
  const effects: Effect[] = [];
  const made = new Map<string, string>();
  const set = setFor(view, fabric);
  const inSet = new Set(set?.zones ?? []);
  const gone = new Set<string>();
  const aliasOf = (member: string) =>
    member.startsWith('wwpn:') ? aliasFor(view, fabric, member.slice(5), made, effects, context) : member;
  /** A list of a defined zone after members of the active one came and went. */
  const moved = (defined: readonly string[], was: readonly string[], is: readonly string[]): string[] => {
    const goes = was.filter((member) => !is.includes(member));
    const comes = is.filter((member) => !was.includes(member));
    const stands = (member: string) =>
      (member.startsWith('alias:')
        ? view.table('alias').by('name', nameKey(fabric.id, member.slice(6)))[0]?.members
        : undefined) ?? [member];
    // An alias for several of which only some go is replaced by those that stay.
    const kept = defined.flatMap((member) => {
      const all = stands(member);
      const stay = all.filter((one) => !goes.includes(one));
      return stay.length === all.length ? [member] : stay.map(aliasOf);
    });
    return [...new Set([...kept, ...comes.map(aliasOf)])];
  };
  for (const { before, after } of plan.edits) {
    const name = (after ?? before)!.name;
    const active = view
      .table('activeZone')
      .by('name', nameKey(fabric.id, name))
      .find((zone) => zone.name === name);
    const defined = view
      .table('zone')
      .by('name', nameKey(fabric.id, name))
      .find((zone) => zone.name === name);
    if (!after) {
      if (active) effects.push(deleted('activeZone', active));
      if (defined) {
        effects.push(deleted('zone', defined));
        inSet.delete(defined.id);
        gone.add(defined.id);
      }
      continue;
    }
    const now: Omit<ActiveZone, 'id'> = {
      fabric: fabric.id,
      name,
      kind: after.kind,
      members: [...after.members],
      principals: [...after.principals],
    };
    effects.push(
      active
        ? changed('activeZone', active, now)
        : created('activeZone', rowOf('activeZone', { id: context.newId('activeZone'), ...now })),
    );
    if (defined)
      effects.push(
        changed('zone', defined, {
          members: moved(defined.members, before?.members ?? [], after.members),
          principals: moved(defined.principals, before?.principals ?? [], after.principals),
        }),
      );
    else {
      const zone = rowOf('zone', {
        id: context.newId('zone'),
        fabric: fabric.id,
        name,
        kind: after.kind,
        members: after.members.map(aliasOf),
        principals: after.principals.map(aliasOf),
      });
      effects.push(created('zone', zone));
      inSet.add(zone.id);
    }
  }
  if (effects.length === 0) return effects;
  // Other zone sets name zones of the same list: what goes leaves them, too.
  for (const other of view.table('zoneSet').by('fabric', fabric.id))
    if (other.id !== set?.id && other.zones.some((id) => gone.has(id)))
      effects.push(changed('zoneSet', other, { zones: other.zones.filter((id) => !gone.has(id)) }));
  const setName = fabric.activeSet ?? set?.name ?? `set_${fabric.name}`;
  if (set) effects.push(changed('zoneSet', set, { zones: [...inSet] }));
  else
    effects.push(
      created(
        'zoneSet',
        rowOf('zoneSet', { id: context.newId('zoneSet'), fabric: fabric.id, name: setName, zones: [...inSet] }),
      ),
    );
  effects.push(changed('fabric', fabric, { activeSet: setName, activatedAt: context.now }));
  return effects;
}
