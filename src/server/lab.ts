import { findDevice } from '@/core/attach/device-format';
import { changed } from '@/core/estate/effects';
import { jobProgress } from '@/core/lab/advance';
import { clearFault, componentName, faults, setFault, type FaultKind } from '@/core/lab/faults';
import { driveRef, lookUp } from '@/core/operation/inquiry';
import type { LabView } from '@/core/lab/view';
import { formatRate, parseRate } from '@/core/units/rate';
import { readLabLog } from '@/store/change-rows';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';

/** The lab as a screen shows it. */
export function labView({ estate, lab, store }: Plant): LabView {
  return {
    now: lab.now,
    speed: lab.speed,
    jobs: [...estate.table('job').values()].map((job) => ({
      id: job.id,
      kind: job.kind,
      array: estate.table('array').get(job.array)?.name ?? '',
      raidGroup: estate.table('raidGroup').get(job.raidGroup)?.name ?? '',
      raidGroupId: job.raidGroup,
      progress: jobProgress(job, lab.now),
      startedAt: job.startedAt,
      finishesAt: job.finishesAt,
    })),
    faults: faults(estate),
    breakable: breakable(estate),
    traffic: [...estate.table('hostDevice').values()]
      .filter((device) => device.mountPoint)
      .map((device) => ({
        host: estate.table('host').get(device.host)?.name ?? '',
        device: device.name,
        mountPoint: device.mountPoint!,
        used: device.used,
        size: device.size,
        rate: formatRate(device.writeRate),
      })),
    log: readLabLog(store.db, 30),
  };
}

/** What can be broken, by kind; drives only those of RAID groups, for the others carry nothing. */
function breakable(view: Plant['estate']) {
  const rows: { kind: FaultKind; component: string; name: string }[] = [];
  const add = (kind: FaultKind, component: string) =>
    rows.push({ kind, component, name: componentName(view, kind, component) });
  for (const row of view.table('drive').values())
    if (row.raidGroup && row.state !== 'failed') add('drive-failed', row.id);
  for (const row of view.table('port').values())
    if (row.state === 'up' && row.role !== 'none') add('port-down', row.id);
  for (const row of view.table('controller').values()) if (row.state === 'up') add('controller-down', row.id);
  for (const row of view.table('interface').values()) if (row.state === 'up') add('interface-down', row.id);
  return rows;
}

/** A component by id, or as people name it: `1:3`, `a4`, `eth0`, each behind its array or host: `lintel-1/1:3`. */
function component(plant: Plant, kind: FaultKind, ref: string): string {
  const [owner, name] = ref.split('/');
  if (name === undefined) return ref;
  const { estate } = plant;
  if (kind === 'interface-down') {
    const host = lookUp(estate, 'host', owner!);
    return (host && lookUp(estate, 'interface', name, host.id)?.id) ?? ref;
  }
  const array = lookUp(estate, 'array', owner!);
  if (!array) return ref;
  if (kind === 'drive-failed')
    return (
      estate
        .table('drive')
        .by('array', array.id)
        .find((drive) => driveRef(estate, drive) === name)?.id ?? ref
    );
  return lookUp(estate, kind === 'port-down' ? 'port' : 'controller', name, array.id)?.id ?? ref;
}

export function changeFault(plant: Plant, kind: FaultKind, ref: string, clear: boolean) {
  const id = component(plant, kind, ref);
  const result = clear ? clearFault(plant.estate, kind, id, plant.lab.now) : setFault(plant.estate, kind, id);
  if (!result.ok) throw refusedProblem(result.refusals, result.refusals[0]!.code === 'component-unknown' ? 404 : 409);
  plant.commit({ effects: result.effects, log: [plant.logRow(result.said, clear ? {} : { level: 'problem' })] });
  return { said: result.said, faults: faults(plant.estate) };
}

export function setTraffic(plant: Plant, hostRef: string, deviceRef: string, rateText: string) {
  const host = lookUp(plant.estate, 'host', hostRef);
  if (!host) throw new Problem(404, 'host-unknown', `There is no host named ${hostRef}.`, 'Check the name.');
  const device = findDevice(plant.estate, host, deviceRef);
  if (!device?.mountPoint)
    throw new Problem(
      409,
      'not-mounted',
      `${host.name} has nothing mounted on ${deviceRef}.`,
      'Format and mount the device first.',
    );
  const rate = parseRate(rateText);
  if (!rate.ok) throw new Problem(422, rate.reason, rate.message, 'Write a size each second, such as 32 MiB/s, or 0.');
  plant.commit({
    effects: [changed('hostDevice', device, { writeRate: rate.value })],
    log: [plant.logRow(`${host.name} writes ${formatRate(rate.value)} to ${device.mountPoint}`)],
  });
  return { host: host.name, device: device.name, rate: formatRate(rate.value) };
}
