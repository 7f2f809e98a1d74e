import { created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Host, type HostInterface } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { PlanContext } from '../operation/operation';
import type { Part } from './host-cluster';
import { claimed, claimOf, initiatorForm } from './initiators';

/** One name that goes and one of its form that comes are one initiator under another name. */
export function renamedOf(before: readonly string[], after: readonly string[]): Record<string, string> {
  const [gone, ...others] = before.filter((name) => !after.includes(name));
  const [come, ...more] = after.filter((name) => !before.includes(name));
  const one = gone !== undefined && come !== undefined && others.length + more.length === 0;
  return one && initiatorForm(gone) === initiatorForm(come) ? { [gone]: come } : {};
}

export const onRecord = (view: EstateView, host: Host): string[] =>
  view
    .table('initiator')
    .by('host', host.id)
    .map((row) => row.name);

/** Puts these names on record for a host, all of them and no other; ports that logged in by one of them become its. */
export function recordNames(view: EstateView, host: Host, names: readonly string[], context: PlanContext): Part {
  const effects: Effect[] = [];
  const notes: string[] = [];
  const own = view.table('initiator').by('host', host.id);
  for (const row of own) {
    if (names.includes(row.name)) continue;
    const rules = view.table('access').by('initiator', row.id);
    effects.push(...rules.map((rule) => deleted('access', rule)), deleted('initiator', row));
  }
  const ports: HostInterface[] = [];
  for (const name of names) {
    if (own.some((row) => row.name === name)) continue;
    effects.push(created('initiator', rowOf('initiator', { id: context.newId('initiator'), host: host.id, name })));
    const { port, note } = claimOf(view, name);
    if (port) ports.push(port);
    if (note) notes.push(note);
  }
  const taken = view.table('interface').by('host', host.id);
  const claims = claimed(
    host.id,
    ports,
    taken.map((row) => row.name),
  );
  return { effects: [...effects, ...claims.effects], notes: [...notes, ...claims.notes] };
}
