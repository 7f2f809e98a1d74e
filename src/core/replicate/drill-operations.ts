import { z } from 'zod';
import { dropped } from '../copies/drop';
import { changed, compacted, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Drill, type Host, type Replication } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { draftHost, draftList, hostChoices } from '../operation/draft';
import { folded, pick, several, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice, type OperationType, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { nameByPattern } from '../protect/names';
import { usersOf } from '../protect/pause';
import { parseSpan } from '../protect/plan-create';
import { counted, someOf } from '../units/counted';
import { momentText } from '../units/date';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { lockedCopies, purged } from '../volume/delete';
import { askRole, replicationChoices } from './ask';
import { rto } from './recovery-time';
import { rehearsed, type Rehearsed } from './rehearse';
import { partTook } from './rehearse-time';
import { sidesOf } from './sides';

const startSchema = z.object({
  replications: z.array(z.string()).min(1, 'name at least one replication'),
  host: z.string().describe('Where it is rehearsed: a host that works with none of the data'),
  detect: z.string().default('5 min').describe('How long it takes until somebody notices a disaster'),
  decide: z.string().default('10 min').describe('How long it takes to decide'),
  hands: z.coerce.number().int().min(1).max(32).default(2).describe('How many are at work at once'),
});

/** A host at which nothing can be mixed up with the data. */
function askApart(view: EstateView, asks: Inquiry, host: Host, rows: readonly Replication[]): void {
  const volumes = rows.flatMap((row) => [...sidesOf(view, row).source, ...sidesOf(view, row).target]);
  if (!usersOf(view, volumes).some((user) => user.id === host.id)) return;
  asks.refuse({
    code: 'host-not-apart',
    field: 'host',
    subject: subjectOf('host', host),
    message: `${host.name} works with the data; a drill is held where nothing can be mixed up with it.`,
    mend: 'Choose another host.',
  });
}

export interface DrillTimes {
  detect: Milliseconds;
  decide: Milliseconds;
  hands: number;
}

/** What the tiers of a drill take, and all of it. */
export function drillTimes(parts: readonly Rehearsed['part'][], { detect, decide, hands }: DrillTimes) {
  const numbers = [...new Set(parts.map(({ tier }) => tier))].sort((a, b) => a - b);
  const { tiersS, totalS } = rto({
    detectS: detect / SECOND,
    decideS: decide / SECOND,
    tiers: numbers.map((tier) => ({
      parallel: hands,
      tasksS: parts.filter((part) => part.tier === tier).map((part) => partTook(part) / SECOND),
    })),
  });
  return { tiers: tiersS.map((one) => Math.round(one * SECOND)), total: Math.round(totalS * SECOND) };
}

/** A name under which no drill stands yet. */
function freeName(view: EstateView, now: Milliseconds): string {
  const stem = nameByPattern('drill-{date}-{time}', now);
  let name = stem;
  for (let k = 2; lookUp(view, 'drill', name); k++) name = `${stem}-${k}`;
  return name;
}

export const drillStart: OperationType<z.output<typeof startSchema>> = {
  kind: 'drill.start',
  verb: 'Rehearse a failover',
  summary:
    'Volumes made of what the other site holds are brought to a host that works with none of it, each task is timed, and copying goes on.',
  schema: startSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      replications: several('Replications'),
      host: the.host,
      hands: 'At work at once',
      detect: folded(such('Noticing takes', '5 min')),
      decide: folded(such('Deciding takes', '10 min')),
    },
  },
  title: (p) => `Rehearse the failover of ${someOf(p.replications)}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const rows = [...new Set(p.replications)].flatMap((name) => asks.find('replication', name, 'replications') ?? []);
    const host = asks.find('host', p.host, 'host');
    const span = (text: string, field: string) =>
      asks.value(parseSpan(text), field, { kind: 'operation', name: 'drill' }) ?? 0;
    const times = { detect: span(p.detect, 'detect'), decide: span(p.decide, 'decide'), hands: p.hands };
    if (host) askApart(view, asks, host, rows);
    if (asks.refusals.length > 0 || !host) return refused(asks.refusals);
    const overlay = new Overlay(view);
    const done: Rehearsed[] = [];
    for (const row of [...rows].sort((a, b) => a.tier - b.tier || a.name.localeCompare(b.name))) {
      const one = rehearsed(overlay, asks, row, host, context);
      if (!one) return refused(asks.refusals.slice(0, 2));
      done.push(one);
    }
    const parts = done.map(({ part }) => part);
    const { tiers, total } = drillTimes(parts, times);
    const [first] = sidesOf(view, rows[0]!).target;
    const array = arrayOf(view, first!);
    const drill = rowOf('drill', {
      id: context.newId('drill'),
      name: freeName(view, context.now),
      host: host.name,
      site: siteOf(view, array).name,
      startedAt: context.now,
      ...times,
      parts,
      tiers,
      total,
      clones: done.flatMap(({ clones }) => clones),
      copies: done.flatMap(({ copies }) => copies),
    });
    const bad = parts.flatMap(({ found }) => found.filter(({ good }) => !good));
    const over = parts.filter(({ goal }) => goal !== null && total > goal);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Rehearse ${someOf(parts.map(({ name }) => name))} at ${host.name}: back within ${formatDuration(total)}${bad.length > 0 ? `, ${counted(bad.length, 'volume')} not good` : ''}`,
      takes: Math.max(SECOND, total - times.detect - times.decide),
      effects: [...compacted(done.flatMap(({ effects }) => effects)), created('drill', drill)],
      notes: [
        ...parts.map(({ name, pit }) => `${name} comes back to ${momentText(pit)}; its copying goes on.`),
        ...over.map(({ name, goal }) => `${name} is to be back within ${formatDuration(goal!)}.`),
      ],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const rows = draftList(draft, 'replications').flatMap((name) => lookUp(view, 'replication', name) ?? []);
    const users = usersOf(
      view,
      rows.flatMap((row) => [...sidesOf(view, row).source, ...sidesOf(view, row).target]),
    );
    return {
      fields: {
        replications: {
          choices: replicationChoices(view, (row) => {
            if (row.drill) return 'is being rehearsed';
            return row.image ? undefined : 'has no whole image yet';
          }),
          says:
            rows.length === 0
              ? 'Those of turn 1 come first.'
              : `Back to what ${[...new Set(rows.map((row) => sidesOf(view, row).targetSite))].join(' and ')} holds; turns ${[...new Set(rows.map(({ tier }) => tier))].sort().join(', ')}.`,
        },
        host: {
          choices: hostChoices(view).map((choice) => {
            const unfit = users.some((user) => user.name === choice.value) ? 'works with the data' : undefined;
            return unfit ? { ...choice, unfit } : choice;
          }),
          says: host
            ? 'Sees volumes made for the drill, and nothing else of it.'
            : 'One that works with none of the data.',
        },
        hands: { suggested: '2', says: 'Within one turn so much is done at a time.' },
        detect: { suggested: '5 min', says: 'Reckoned into the time until all is back.' },
        decide: { suggested: '10 min', says: 'Reckoned into the time until all is back.' },
      },
    };
  },
};

const endSchema = z.object({ drill: z.string() });

/** Drills whose volumes stand. */
const drillChoices = (view: EstateView): Choice[] =>
  view
    .table('drill')
    .by('running', '')
    .map((drill) => ({ value: drill.name, label: `${drill.name}, ${drill.parts.map(({ name }) => name).join(', ')}` }));

/** Refuses to take away what somebody has begun to build on. */
function askLeft(view: EstateView, asks: Inquiry, drill: Drill, now: Milliseconds): void {
  for (const id of drill.clones) {
    const volume = view.table('volume').get(id);
    if (!volume) continue;
    const built = view
      .table('snapshot')
      .by('volume', id)
      .flatMap((copy) => view.table('volume').by('base', copy.id))
      .filter((one) => one.id !== id);
    const kept = lockedCopies(view, volume, now);
    if (built.length === 0 && kept.length === 0) continue;
    asks.refuse({
      code: 'drill-in-use',
      field: 'drill',
      subject: subjectOf('volume', volume),
      message:
        built.length > 0
          ? `${someOf(built.map(({ name }) => name))} ${built.length === 1 ? 'is' : 'are'} made of ${volume.name}.`
          : `${counted(kept.length, 'copy', 'copies')} of ${volume.name} cannot be deleted yet.`,
      mend: built.length > 0 ? 'Let it hold its own data first, or retire it.' : 'Release them, or wait.',
    });
  }
}

/** All that was made for a drill goes: devices, mappings, volumes, copies. */
function cleared(view: EstateView, drill: Drill, newId: PlanContext['newId']): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  for (const id of drill.clones) {
    const volume = view.table('volume').get(id);
    if (!volume) continue;
    put([
      ...view
        .table('hostDevice')
        .by('volume', id)
        .map((device) => deleted('hostDevice', device)),
      ...view
        .table('mapping')
        .by('volume', id)
        .map((mapping) => deleted('mapping', mapping)),
    ]);
    put(purged(overlay, overlay.table('volume').get(id)!, newId));
  }
  const copies = drill.copies.flatMap((id) => overlay.table('snapshot').get(id) ?? []);
  if (copies.length > 0) put(dropped(overlay, copies, newId).effects);
  return compacted(effects);
}

export const drillEnd: OperationType<z.output<typeof endSchema>> = {
  kind: 'drill.end',
  verb: 'End a drill',
  summary: 'What was made for it goes; what it found and how long it took is kept.',
  schema: endSchema,
  form: { columns: [3, 4, 7], fields: { drill: pick('Drill') } },
  title: (p) => `End ${p.drill}`,
  units: (p) => [p],
  plan(view, p, { now, newId }) {
    const asks = inquire(view);
    const drill = asks.find('drill', p.drill, 'drill');
    if (!drill) return refused(asks.refusals);
    if (drill.endedAt !== null)
      asks.refuse({
        code: 'replication-no-drill',
        field: 'drill',
        subject: subjectOf('drill', drill),
        message: `${drill.name} ended ${momentText(drill.endedAt)}.`,
        mend: 'Leave it as it is.',
      });
    askLeft(view, asks, drill, now);
    const rows = drill.parts.flatMap(({ replication }) => view.table('replication').get(replication) ?? []);
    const roles = rows.flatMap((row) => {
      const one = row.drill ? askRole(view, asks, row, { e: 'drillStop' }, now) : null;
      return one ? [changed('replication', row, { drill: one.drill })] : [];
    });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const host = lookUp(view, 'host', drill.host);
    return planned({
      device: host ? { kind: 'host', id: host.id, name: host.name } : { kind: 'record', id: '', name: 'Trabes' },
      title: `End ${drill.name}: ${counted(drill.clones.length, 'volume')} made for it go`,
      takes: 5 * SECOND,
      effects: [
        ...cleared(view, drill, newId),
        ...roles,
        changed('drill', drill, { endedAt: now, clones: [], copies: [] }),
      ],
      destroys: 'what was written to the volumes of the drill',
    });
  },
  foretell(view) {
    return { fields: { drill: { choices: drillChoices(view), says: 'Its report stays.' } } };
  },
};
