import { dataOf, mappingsOf } from '../copies/legs';
import { pathFinder } from '../attach/paths';
import { deviceShares } from '../attach/selector';
import { readOnlyDevice } from '../attach/write-access';
import type { Effect } from '../estate/effects';
import type { HostDevice, Kind } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, interfaceOf, poolOf, portOf, volumeOf } from '../estate/relations';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { exactBytes, type Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { writeRuns } from '../volume/grow';
import { unstopped } from '../units/counted';

/** One read or write at an offset, in whole sectors. */
export interface OneIo {
  kind: 'read' | 'write';
  at: Bytes;
  size: Bytes;
}

export type IoAnswer = { ok: true; effects: Effect[]; said: string } | { ok: false; refusal: Refusal };

/** Offsets and sizes are multiples of this. */
export const SECTOR: Bytes = 512;

/**
 * A host does one I/O to a device, by the path that its selector prefers. Refused as arrays do (SPC, SBC): what reaches beyond the end of the
 * volume as it is now, whole (05h/21h/00h); writing where it may only be read (07h/27h/00h), and where the pool is full (07h/27h/07h). Raw writes go
 * to blank devices alone.
 */
export function oneIo(
  view: EstateView,
  device: HostDevice,
  { kind, at, size }: OneIo,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): IoAnswer {
  const host = hostOf(view, device);
  const volume = volumeOf(view, device) && dataOf(view, device);
  const refuse = (
    code: string,
    message: string,
    mend: string,
    more: Pick<Refusal, 'field' | 'offer'> = {},
  ): IoAnswer => ({
    ok: false,
    refusal: { code, message, mend, subject: subjectOf('hostDevice', device), ...more },
  });
  if (size <= 0 || at % SECTOR !== 0 || size % SECTOR !== 0)
    return refuse(
      'not-whole-sectors',
      `An I/O takes whole sectors of ${SECTOR} bytes.`,
      `Give an offset and a size that are multiples of ${SECTOR} B.`,
      { field: size <= 0 || size % SECTOR !== 0 ? 'size' : 'at' },
    );
  if (device.state === 'offline')
    return refuse('device-offline', `${device.name} is offline at ${host.name}.`, 'Take it online.', {
      offer: nextStep('Take it online', 'host-device.configure', {
        host: host.name,
        device: device.name,
        state: 'online',
      }),
    });
  const mapped = volume && mappingsOf(view, host.id, volume.id).length > 0;
  if (!mapped)
    return refuse(
      'not-mapped',
      `Nothing shows ${device.name} to ${host.name} any more (05h/25h/00h, unit not supported).`,
      'Remove the device, or map its volume again.',
    );
  const { found, missing } = pathFinder(view).of(device);
  const path = found[deviceShares(found, host, device).findIndex((share) => share > 0)];
  if (!path)
    return refuse(
      'no-path',
      `No path leads from ${host.name} to ${volume.name}${missing[0] ? `: ${unstopped(missing[0].message)}` : ''}.`,
      'Look at its trace.',
    );
  if (at + size > volume.size)
    return refuse(
      'beyond-end',
      `${exactBytes(size)} at ${exactBytes(at)} reach beyond the end of ${volume.name}, ${exactBytes(volume.size)} (05h/21h/00h, address out of range).`,
      at >= volume.size
        ? `Stay below ${exactBytes(volume.size)}.`
        : `${exactBytes(volume.size - at)} are left there at most.`,
      { field: at >= volume.size ? 'at' : 'size' },
    );
  const by = `by ${interfaceOf(view, path).name} to ${portOf(view, path).name}`;
  const done = `${host.name} ${kind === 'read' ? 'read' : 'wrote'} ${exactBytes(size)} at ${exactBytes(at)} of ${volume.name} ${by}`;
  if (kind === 'read') return { ok: true, effects: [], said: done };
  const bar = readOnlyDevice(view, device);
  if (bar !== null)
    return refuse(
      'read-only',
      `${host.name} cannot write: ${volume.name} ${bar} (07h/27h/00h, write protected).`,
      'Let it write first.',
    );
  if (device.fileSystem !== null || device.initialised)
    return refuse(
      'holds-data',
      `${device.name} carries ${device.fileSystem ?? 'a partition table'}, which a write past it would damage.`,
      'Write to a blank device; files are written as traffic.',
    );
  const written = writeRuns(view, volume, [[at, at + size]], newId, now);
  if (written.full || written.missing > 0)
    return refuse(
      'pool-full',
      `The pool under ${volume.name} has no room for it (07h/27h/07h, space allocation failed).`,
      'Grow the pool, or free room in it.',
      {
        offer: nextStep('Grow the pool', 'pool.extend', {
          array: arrayOf(view, volume).name,
          pool: poolOf(view, volume).name,
        }),
      },
    );
  return { ok: true, effects: written.effects, said: done };
}
