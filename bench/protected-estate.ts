import { changed, created, type Effect } from '@/core/estate/effects';
import { idFor, rowOf, type Rows } from '@/core/estate/entities';
import { Estate } from '@/core/estate/estate';
import { hexFrom } from '@/core/estate/random';
import { usualActivity } from '@/core/copies/activity';
import { GIB } from '@/core/units/bytes';
import { generateEstate } from './estate';

/** Of the volumes all are at work, half of them in workloads that a plan copies every half hour and keeps for two days. */
export interface ProtectedScale {
  volumes: number;
  protectedVolumes: number;
  workloads: number;
  seed: string;
}

/** A generated estate whose hosts rewrite their volumes, and whose workloads are copied by a plan. */
export function protectedEstate({ volumes, protectedVolumes, workloads, seed }: ProtectedScale): Effect[] {
  // So much work needs flash: disks would stand still under it.
  const effects = generateEstate({ arrays: 10, volumes, hosts: 300, seed }).map((effect) =>
    effect.kind === 'drive' && effect.after
      ? { ...effect, after: { ...effect.after, media: 'ssd-sas' as const } }
      : effect,
  );
  const estate = Estate.of(effects.map((effect) => ({ kind: effect.kind, row: effect.after! })));
  const id = (name: string) => hexFrom(`${seed} ${name}`, 12);
  const plan = rowOf('plan', {
    id: idFor('plan', id('plan')),
    name: 'Harbour day',
    zone: 'Europe/Oslo',
    rpo: 1_800_000,
    schedules: [
      {
        name: 'half-hourly',
        rule: 'FREQ=MINUTELY;INTERVAL=30',
        start: '2031-04-01T00:00:00',
        retention: { maxAge: 2 * 86_400_000 },
      },
    ],
  });
  const more: Effect[] = [created('plan', plan)];
  const made: Rows['workload'][] = Array.from({ length: workloads }, (_, k) =>
    rowOf('workload', { id: idFor('workload', id(`workload ${k}`)), name: `Berths ${k + 1}`, plan: plan.id }),
  );
  more.push(...made.map((row) => created('workload', row)));
  let at = 0;
  for (const volume of estate.table('volume').values()) {
    const workload = at < protectedVolumes ? made[at % workloads]!.id : null;
    more.push(
      changed('volume', volume, {
        workload,
        written: Math.min(volume.size, volume.written),
        activity: { ...usualActivity.database, reads: 150, writes: 2, workingSet: 0.2 },
      }),
    );
    const [mapping] = estate.table('mapping').by('volume', volume.id);
    if (mapping)
      more.push(
        created(
          'hostDevice',
          rowOf('hostDevice', {
            id: idFor('hostDevice', id(`device ${at}`)),
            name: `disk-${at}`,
            host: mapping.host,
            volume: volume.id,
            lun: mapping.lun,
            naa: volume.naa,
            size: volume.size,
            fileSystem: 'xfs',
            mountPoint: `/srv/${volume.name}`,
            fileSystemSize: volume.size,
            used: Math.min(volume.written, GIB),
            writeRate: 0,
            initialised: true,
          }),
        ),
      );
    at += 1;
  }
  return [...effects, ...more];
}
