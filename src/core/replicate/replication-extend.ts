import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Replication, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf } from '../estate/relations';
import { besideMoves, extentsBesideMoves } from '../volume/promised';
import { pick } from '../operation/form';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { shownBytes } from '../copies/parts';
import { replicaOf } from '../copies/replica';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { mirrored, pitOf } from './carry';
import { askReplication, draftReplication, replicationChoices, refuseStretched } from './ask';
import { sidesOf } from './sides';
import { askPartners, madeTwins } from './target-ask';
import { byName } from '../operation/draft';

/** Volumes of a workload that its replication does not carry: they joined it later. */
export const strangers = (view: EstateView, row: Replication): Volume[] =>
  row.workload === null
    ? []
    : view
        .table('volume')
        .by('workload', row.workload)
        .filter((volume) => volume.deletedAt === null && replicaOf(view, volume.id) === null)
        .sort(byName);

const schema = z.object({ replication: z.string() });

export const replicationExtend: OperationType<z.output<typeof schema>> = {
  kind: 'replication.extend',
  verb: 'Copy what joined later, too',
  summary: 'Volumes that joined the workload since are copied with the others from the next cut on.',
  schema,
  form: { columns: [3, 4, 7], fields: { replication: pick('Replication') } },
  title: (p) => `Copy all volumes of ${p.replication}`,
  units: (p) => [p],
  plan(view, p, context) {
    const { asks, row } = askReplication(view, p.replication);
    if (!row || refuseStretched(asks, row)) return refused(asks.refusals);
    const subject = subjectOf('replication', row);
    const joining = strangers(view, row);
    const { target } = sidesOf(view, row);
    const pool = poolOf(view, view.table('volume').get(row.secondaries[0]!)!);
    const array = arrayOf(view, pool);
    const no = (code: string, message: string, mend: string) =>
      asks.refuse({ code, field: 'replication', subject, message, mend });
    if (joining.length === 0)
      no('replication-nothing-joined', `All volumes of ${row.name} are copied.`, 'Leave it as it is.');
    else if (row.source !== 'P' || row.state === 'failed-over')
      no(
        'replication-turned',
        `${row.name} is served by its other site now.`,
        'Bring it back first: what joined lies where it came from.',
      );
    for (const volume of joining)
      if (poolOf(view, volume).direct)
        no(
          'copies-need-pool',
          `${volume.name} lies straight in a RAID group, where nobody tells what changes.`,
          'Carve it from a pool, or take it out of the workload.',
        );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    askPartners(
      view,
      asks,
      { workload: view.table('workload').get(row.workload!)!, volumes: joining, name: row.name },
      { array, pool, now: context.now },
    );
    const need = joining.reduce((sum, volume) => sum + shownBytes(volume), 0);
    const left = extentsBesideMoves(view, pool) * pool.extentSize;
    if (need > left)
      no(
        'replication-target-full',
        `${pool.name} has ${formatBytes(left)} left${besideMoves(view, pool)}; what joined takes ${formatBytes(need, 'used')}.`,
        `Extend ${pool.name} first.`,
      );
    const overlay = new Overlay(view);
    const { twins, effects } = madeTwins(overlay, asks, joining, { pool, field: 'replication' }, context);
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 2));
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Copy ${someOf(joining.map(({ name }) => name))} with the others of ${row.name}`,
      takes: 2 * SECOND,
      effects: [
        ...mirrored(view, row, context.now, context.newId).effects,
        ...effects,
        changed('replication', row, {
          pit: pitOf(row, context.now),
          primaries: [...row.primaries, ...joining.map(({ id }) => id)],
          secondaries: [...row.secondaries, ...twins.map(({ id }) => id)],
          // A mirror is none before all of it stands there.
          ...(row.state === 'protected' ? { state: 'copying' as const, since: context.now, nextAt: context.now } : {}),
          carrying: null,
        }),
      ],
      notes: [
        `${formatBytes(need, 'used')} are sent with the next cut; until then ${someOf(target.map(({ name }) => name))} alone could be gone back to.`,
      ],
    });
  },
  foretell(view, draft) {
    const row = draftReplication(view, draft);
    return {
      fields: {
        replication: {
          choices: replicationChoices(view, (one) =>
            strangers(view, one).length > 0 ? undefined : 'all its volumes are copied',
          ),
          says: row ? `${someOf(strangers(view, row).map(({ name }) => name)) || 'Nothing'} joined later.` : '',
        },
      },
    };
  },
};
