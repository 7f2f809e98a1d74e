import { hostRescan } from '../attach/host-rescan';
import { deviceMount } from '../attach/device-mount';
import { families } from '../attach/families';
import { mappingCreate } from '../attach/mapping-create';
import { cutOf } from '../copies/cut';
import { changed, type Effect } from '../estate/effects';
import type { Host, Replication, Snapshot, Volume } from '../estate/entities';
import type { Overlay } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { DrillPart } from '../kinds/drill';
import type { Inquiry } from '../operation/inquiry';
import type { OperationType, PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { cloneRow } from '../protect/clone-rows';
import { freeCopyName, nameByPattern } from '../protect/names';
import { lookAt } from '../protect/snapshot-validate';
import { counted } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import { askRole } from './ask';
import { lagOf, mirrored, pitOf } from './carry';
import { roleFields, sidesOf } from './sides';

/** Cutting an image, making volumes of it, and starting an application (choices; the rest is what the devices take). */
const CUT: Milliseconds = SECOND;
const CLONE: Milliseconds = SECOND;
const START: Milliseconds = 45 * SECOND;

export interface Rehearsed {
  part: DrillPart;
  clones: string[];
  copies: string[];
  effects: Effect[];
}

/**
 * Brings what a replication's target holds to a host that works with none of it, as a failover would: a copy, volumes of it, mappings, mounts, a
 * look at every file. All of it is applied to the overlay; what cannot be done is refused in the words of whoever cannot.
 */
export function rehearsed(
  overlay: Overlay,
  asks: Inquiry,
  { id }: Replication,
  host: Host,
  context: PlanContext,
): Rehearsed | null {
  const { now, newId } = context;
  const effects: Effect[] = [];
  const tasks: DrillPart['tasks'] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const did = (what: string, took: Milliseconds) => tasks.push({ what, took });
  const present = () => overlay.table('replication').get(id)!;
  /** Carries an operation out as part of this one. */
  const carry = <P>(operation: OperationType<P>, params: object): Milliseconds | null => {
    const planned = operation.plan(overlay, operation.schema.parse(params), context);
    if (!planned.ok) {
      for (const { field: _field, ...refusal } of planned.refusals) asks.refuse({ ...refusal, field: 'host' });
      return null;
    }
    put(planned.step.effects);
    return planned.step.takes;
  };

  const row = present();
  const roles = askRole(overlay, asks, row, { e: 'drillStart' }, now);
  if (!roles) return null;
  put(mirrored(overlay, row, now, newId).effects);
  const pit = pitOf(row, now)!;
  const { target } = sidesOf(overlay, row);
  const array = arrayOf(overlay, target[0]!);
  const name = freeCopyName(overlay, target, nameByPattern('drill-{date}-{time}', now));
  const cut = cutOf(overlay, target, { name, at: pit, workload: null, notes: `drill of ${row.name}` }, newId);
  put([...cut.effects, changed('replication', present(), { ...roleFields(roles) })]);
  did('cut the image', CUT);

  const clones = cut.copies.map((copy) => {
    const { volume, effects: made } = cloneRow(
      overlay,
      copy,
      { name: freeVolumeName(overlay, copy, array.id), now, shown: true, notes: `drill of ${row.name}` },
      newId,
    );
    put(made);
    return { copy, volume };
  });
  did(`make ${counted(clones.length, 'volume')} of it`, clones.length * CLONE);

  let took = 0;
  for (const { volume } of clones) {
    const one = carry(mappingCreate, { host: host.name, array: array.name, volumes: [volume.name] });
    if (one === null) return null;
    took += one;
  }
  did(`map them to ${host.name}`, took);
  const scan = carry(hostRescan, { host: host.name });
  if (scan === null) return null;
  did(`${host.name} looks again`, scan);

  const filled = clones.filter(({ copy }) => copy.image !== null && copy.written > 0);
  took = 0;
  for (const { volume } of filled) {
    const device = overlay
      .table('hostDevice')
      .by('volume', volume.id)
      .find((one) => one.host === host.id);
    if (!device) {
      asks.refuse({
        code: 'drill-host-blind',
        field: 'host',
        subject: subjectOf('host', host),
        message: `${host.name} would not see ${volume.name}: no path leads from it to ${array.name}.`,
        mend: `Choose a host that reaches ${array.name}.`,
      });
      return null;
    }
    const one = carry(deviceMount, {
      host: host.name,
      device: device.name,
      mountPoint: `${families[host.os].mountBase}/${volume.name}`,
    });
    if (one === null) return null;
    took += one;
  }
  if (filled.length > 0) did(`mount ${counted(filled.length, 'file system')}`, took);

  const looks = clones.map(({ copy, volume }) => ({ volume, ...lookAt(copy, host) }));
  did('read every file with its checksum', Math.max(...looks.map((one) => one.took)));
  if (host.application !== 'none') did(`start the ${host.application}`, START);
  return {
    part: {
      replication: row.id,
      name: row.name,
      tier: row.tier,
      pit,
      lag: lagOf(row, now),
      goal: row.goal,
      tasks,
      found: looks.map(({ volume, good, says }) => ({ volume: volume.name, good, says })),
    },
    clones: clones.map(({ volume }) => volume.id),
    copies: clones.map(({ copy }) => copy.id),
    effects,
  };
}

/** `ledger-copy-drill`, or another one where that is taken. */
function freeVolumeName(overlay: Overlay, copy: Snapshot, array: string): string {
  const own: Volume = overlay.table('volume').get(copy.volume)!;
  const stem = `${own.name.slice(0, 54)}-drill`;
  const taken = new Set(
    overlay
      .table('volume')
      .by('array', array)
      .map((volume) => volume.name.toLowerCase()),
  );
  let name = stem;
  for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${stem}-${k}`;
  return name;
}
