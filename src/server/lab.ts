import { readOnlyDevice } from '@/core/attach/write-access';
import { findDevice } from '@/core/attach/device-format';
import { changed } from '@/core/estate/effects';
import { fileSystemTables } from '@/core/attach/device-format';
import { compacted } from '@/core/estate/effects';
import type { ContentProfile, Job } from '@/core/estate/entities';
import { newIds } from '@/core/estate/new-ids';
import { jobProgress } from '@/core/job/work';
import { faults } from '@/core/lab/broken';
import { componentName, faultTable, type FaultKind } from '@/core/lab/fault-kinds';
import { clearFault, setFault } from '@/core/lab/faults';
import { deleteFile, writeFile } from '@/core/attach/files';
import { oneIo, type OneIo } from '@/core/lab/one-io';
import { deleteFiles } from '@/core/attach/file-places';
import { driveRef, lookUp } from '@/core/operation/inquiry';
import type { LabView } from '@/core/lab/view';
import { componentsOf, findComponent, type ComponentClass } from '@/core/whatif/components';
import { formatBytes, parseBytes } from '@/core/units/bytes';
import { formatRate, parseRate } from '@/core/units/rate';
import { readLabLog } from '@/store/change-rows';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import { arrayOf, driveOf, hostOf, poolOf, raidGroupOf, volumeOf } from '@/core/estate/relations';

/** The lab as a screen shows it. */
export function labView({ estate, lab, store }: Plant): LabView {
  return {
    now: lab.now,
    speed: lab.speed,
    jobs: [...estate.table('job').values()].map((job) => ({
      id: job.id,
      kind: job.kind,
      array: arrayOf(estate, job).name,
      subject: jobSubject(estate, job),
      priority: job.priority,
      rate: job.rate,
      progress: jobProgress(job, lab.now),
      startedAt: job.startedAt,
      finishesAt: job.finishesAt,
      paused: job.paused,
    })),
    faults: faults(estate),
    breakable: breakable(estate),
    traffic: [...estate.table('hostDevice').values()]
      .filter((device) => device.mountPoint)
      .map((device) => ({
        host: hostOf(estate, device).name,
        device: device.name,
        mountPoint: device.mountPoint!,
        used: device.used,
        size: device.size,
        rate: formatRate(device.writeRate),
      })),
    devices: [...estate.table('hostDevice').values()]
      .map((device) => ({ host: hostOf(estate, device).name, device: device.name }))
      .sort((a, b) => (`${a.host} ${a.device}` < `${b.host} ${b.device}` ? -1 : 1)),
    log: readLabLog(store.db, 30),
  };
}

/** What a job is about: a volume, a group, a pool or a drive. */
function jobSubject(view: Plant['estate'], job: Job): string {
  const drive = driveOf(view, job);
  return (
    (job.volume && volumeOf(view, job)?.name) ??
    (job.raidGroup && raidGroupOf(view, job)?.name) ??
    (job.pool && poolOf(view, job)?.name) ??
    (drive ? driveRef(view, drive) : '')
  );
}

/** What can be broken, by kind; drives only those of RAID groups and spares, for the others carry nothing. */
function breakable(view: Plant['estate']) {
  const rows: { kind: FaultKind; component: string; name: string }[] = [];
  const add = (kind: FaultKind, component: string) =>
    rows.push({ kind, component, name: componentName(view, kind, component) });
  for (const row of view.table('drive').values()) {
    if (!row.raidGroup && row.spare === 'no') continue;
    if (row.state === 'failed' || row.state === 'missing') continue;
    add('drive-failed', row.id);
    if (row.state === 'ok') add('drive-predicted', row.id);
    add('drive-missing', row.id);
  }
  for (const row of view.table('enclosure').values()) if (row.state === 'up') add('enclosure-down', row.id);
  for (const row of view.table('port').values())
    if (row.state === 'up' && row.role !== 'none') add('port-down', row.id);
  for (const row of view.table('controller').values()) if (row.state === 'up') add('controller-down', row.id);
  for (const row of view.table('interface').values()) if (row.state === 'up') add('interface-down', row.id);
  for (const row of view.table('siteLink').values()) if (row.state === 'up') add('site-link-down', row.id);
  for (const row of view.table('siteLink').values()) {
    if (!row.slow) add('site-link-slow', row.id);
    if (!row.lossy) add('site-link-lossy', row.id);
  }
  for (const kind of ['switch', 'isl', 'network', 'witness'] as const)
    for (const row of view.table(kind).values()) if (row.state === 'up') add(`${kind}-down`, row.id);
  for (const row of view.table('host').values())
    if (row.agent !== 'none')
      for (const kind of ['agent-absent', 'agent-slow', 'agent-silent'] as const) add(kind, row.id);
  for (const row of view.table('array').values()) if (row.clockOff === 0) add('clock-jump', row.id);
  for (const one of componentsOf(view).values()) {
    const kind = wholeFaults[one.class];
    if (kind) rows.push({ kind, component: one.id, name: one.name });
  }
  return rows;
}

/** The fault that takes a whole with all its parts. */
const wholeFaults: Partial<Record<ComponentClass, FaultKind>> = {
  adapter: 'adapter-down',
  array: 'array-down',
  site: 'site-down',
};

/** A component by id, or as people name it: `1:3`, `a4`, `eth0`, each behind its array or host: `lintel-1/1:3`. */
function component(plant: Plant, kind: FaultKind, ref: string): string {
  const { estate } = plant;
  const table = faultTable(kind);
  if (kind === 'clock-jump') return lookUp(estate, 'array', ref)?.id ?? ref;
  if (
    table === 'switch' ||
    table === 'isl' ||
    table === 'siteLink' ||
    table === 'network' ||
    table === 'host' ||
    table === 'witness'
  )
    return lookUp(estate, table, ref)?.id ?? ref;
  if (kind === 'array-down' || kind === 'adapter-down' || kind === 'site-down')
    return findComponent(componentsOf(estate), ref.replace('/', ' '))?.id ?? ref;
  const [owner, name] = ref.split('/');
  if (name === undefined) return ref;
  if (kind === 'interface-down') {
    const host = lookUp(estate, 'host', owner!);
    return (host && lookUp(estate, 'interface', name, host.id)?.id) ?? ref;
  }
  const array = lookUp(estate, 'array', owner!);
  if (!array) return ref;
  if (kind === 'enclosure-down')
    return (
      estate
        .table('enclosure')
        .by('array', array.id)
        .find((enclosure) => String(enclosure.number) === name)?.id ?? ref
    );
  if (faultTable(kind) === 'drive')
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
  const newId = newIds(`fault ${kind} ${id} ${plant.lab.now}`, plant.estate);
  const result = clear
    ? clearFault(plant.estate, kind, id, plant.lab.now, newId)
    : setFault(plant.estate, kind, id, plant.lab.now, newId);
  if (!result.ok) throw refusedProblem(result.refusals, result.refusals[0]!.code === 'component-unknown' ? 404 : 409);
  plant.commit({
    effects: compacted(result.effects),
    log: [plant.logRow(result.said, clear ? {} : { level: 'problem' })],
  });
  return { said: result.said, faults: faults(plant.estate) };
}

/** A host does one read or write at an offset of a device. */
export function doIo(
  plant: Plant,
  wish: { host: string; device: string; kind: OneIo['kind']; at: string; size: string },
) {
  const host = lookUp(plant.estate, 'host', wish.host);
  const device = host && findDevice(plant.estate, host, wish.device);
  if (!device)
    throw new Problem(404, 'device-unknown', `There is no device ${wish.device} at ${wish.host}.`, 'Check both names.');
  const bytes = (text: string): number => {
    const read = parseBytes(text);
    if (!read.ok) throw new Problem(422, read.reason, read.message, 'Write a size, such as 4 KiB or 0.');
    return read.value;
  };
  const io = { kind: wish.kind, at: /^0+$/.test(wish.at.trim()) ? 0 : bytes(wish.at), size: bytes(wish.size) };
  const { now } = plant.lab;
  const answer = oneIo(plant.estate, device, io, now, newIds(`io ${device.id} ${now}`, plant.estate));
  if (!answer.ok) throw refusedProblem([answer.refusal], 409);
  plant.commit({ effects: compacted(answer.effects), log: [plant.logRow(answer.said)] });
  return { said: answer.said };
}

function mountedDevice(plant: Plant, hostRef: string, deviceRef: string) {
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
  return { host, device };
}

export function setTraffic(plant: Plant, hostRef: string, deviceRef: string, rateText: string) {
  const { host, device } = mountedDevice(plant, hostRef, deviceRef);
  const rate = parseRate(rateText);
  if (!rate.ok) throw new Problem(422, rate.reason, rate.message, 'Write a size each second, such as 32 MiB/s, or 0.');
  const bar = readOnlyDevice(plant.estate, device);
  if (rate.value > 0 && (bar !== null || device.readOnly))
    throw new Problem(
      409,
      'read-only',
      `${host.name} cannot write to ${device.mountPoint}: ${bar === null ? 'its file system stands read-only since a write was refused' : `the volume ${bar}`}.`,
      bar === null ? 'Unmount it and mount it again.' : 'Let the host write first.',
    );
  plant.commit({
    effects: [changed('hostDevice', device, { writeRate: rate.value })],
    log: [plant.logRow(`${host.name} writes ${formatRate(rate.value)} to ${device.mountPoint}`)],
  });
  return { host: host.name, device: device.name, rate: formatRate(rate.value) };
}

/** A host deletes files; the array hears of it when blocks are reclaimed. */
export function freeFiles(plant: Plant, hostRef: string, deviceRef: string, sizeText: string) {
  const { host, device } = mountedDevice(plant, hostRef, deviceRef);
  const size = parseBytes(sizeText, 'promise');
  if (!size.ok) throw new Problem(422, size.reason, size.message, 'Write a size, such as 20 GiB.');
  const effects = deleteFiles(device, fileSystemTables(device.fileSystemSize), size.value);
  if (effects.length === 0)
    throw new Problem(
      409,
      'nothing-to-delete',
      `${device.mountPoint} on ${host.name} holds no such files.`,
      'Write something first.',
    );
  const after = effects[0]!.after as typeof device;
  const freed = formatBytes(device.used - after.used);
  plant.commit({ effects, log: [plant.logRow(`${host.name} deletes ${freed} of files in ${device.mountPoint}`)] });
  return { host: host.name, device: device.name, deleted: freed, used: after.used };
}

/** A host writes a named file, writes over one, or deletes it. */
export function changeFile(
  plant: Plant,
  wish: { host: string; device: string; path: string; do: 'write' | 'delete'; size?: string | undefined },
) {
  const { host, device } = mountedDevice(plant, wish.host, wish.device);
  const { now } = plant.lab;
  const newId = newIds(`file ${device.id} ${now}`, plant.estate);
  const size = wish.do === 'write' ? parseBytes(wish.size ?? '', 'promise') : null;
  if (size && !size.ok) throw new Problem(422, size.reason, size.message, 'Write a size, such as 20 MiB.');
  const result =
    size === null
      ? deleteFile(plant.estate, device, wish.path, now, newId)
      : writeFile(plant.estate, device, { path: wish.path, size: size.value }, now, newId);
  if (!result.ok) throw refusedProblem([result.refusal], 409);
  plant.commit({ effects: compacted(result.effects), log: [plant.logRow(result.said)] });
  return { host: host.name, device: device.name, said: result.said };
}

/** What hosts write to a volume from now on, and what is taken to stand there. */
export function setContent(plant: Plant, arrayRef: string, volumeRef: string, content: ContentProfile) {
  const array = lookUp(plant.estate, 'array', arrayRef);
  const volume = array && lookUp(plant.estate, 'volume', volumeRef, array.id);
  if (!volume)
    throw new Problem(404, 'volume-unknown', `There is no volume ${arrayRef}/${volumeRef}.`, 'Check both names.');
  if (content.zero + content.common > 120 || (content.family === null && content.common > 0))
    throw new Problem(
      422,
      'content-impossible',
      'Of every 120 pages no more than 120 can be zeros and common ones, and common pages need a family.',
      'Write smaller numbers, or name a family.',
    );
  if (volume.reducedTo > 0)
    throw new Problem(
      409,
      'content-reduced',
      `${volume.name} is reduced already; what stands there cannot change any more.`,
      'Set it before the pool is reduced.',
    );
  plant.commit({
    effects: [changed('volume', volume, { content })],
    log: [plant.logRow(`${volume.name}: ${content.zero} zero and ${content.common} common of every 120 pages`)],
  });
  return { volume: volume.name, content };
}
