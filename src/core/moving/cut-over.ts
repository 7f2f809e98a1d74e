import { volumeHealth, arrayAnswers } from '../volume/health';
import { changed, compacted, deleted, type Effect } from '../estate/effects';
import type { HostDevice, Move, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { CUT_STEPS } from '../move/states';
import { fitStore } from '../pool/store';
import { lookUp } from '../operation/inquiry';
import { DAY, type Milliseconds } from '../units/duration';
import { brought } from '../replicate/brought';
import { logged } from './log';
import { newWays } from './prepare';
import { poolById, sourceOf, staysWithin, targetOf } from './roads';
import { seconds, showsNow, type Done, type NewId } from './rounds';

/** Fields that say where and how the data of a volume lies. */
const placeOf = ({ array, pool, owner, reducedTo, base, stands, parts, copiesBytes }: Volume): Partial<Volume> => ({
  array,
  pool,
  owner,
  reducedTo,
  base,
  stands,
  parts,
  copiesBytes,
});
const identityOf = ({ naa, serial }: Volume): Partial<Volume> => ({ naa, serial });

/**
 * Volume and twin change places: extents, copies in time and what lies in reduced form go to where the other was. Identity and name stay with the
 * volume that hosts know, unless they are to find another one.
 */
function exchanged(view: EstateView, row: Move, newId: NewId): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const volume = view.table('volume').get(row.volume)!;
  const twin = view.table('volume').get(row.twin!)!;
  const within = staysWithin(view, row);
  const ways = within ? [] : newWays(view, volume, targetOf(view, row), row.identity);
  const { written, holes, files, image, writtenAt } = twin;
  const another = !within && row.identity === 'new';
  put([
    changed('volume', volume, { ...placeOf(twin), ...(another ? identityOf(twin) : {}) }),
    changed('volume', twin, {
      ...placeOf(volume),
      written,
      holes,
      files,
      image,
      writtenAt,
      ...(another ? identityOf(volume) : {}),
    }),
  ]);
  const extents = view.table('extent');
  const other = (id: string) => (id === volume.id ? twin.id : volume.id);
  put([
    ...[volume.id, twin.id].flatMap((id) =>
      [...extents.by('volume', id)].map((run) => changed('extent', run, { volume: other(id) })),
    ),
    ...[volume.id, twin.id].flatMap((id) =>
      [...extents.by('copies', id)].map((run) => changed('extent', run, { copies: other(id) })),
    ),
    ...[volume.id, twin.id].flatMap((id) =>
      [...view.table('snapshot').by('volume', id)].map((copy) => changed('snapshot', copy, { volume: other(id) })),
    ),
  ]);
  for (const id of [row.fromPool, row.toPool]) put(fitStore(overlay, poolById(overlay, id), newId).effects);
  if (!within) {
    put(ways.map(({ mapping, after }) => changed('mapping', mapping, after!)));
    // What belongs to the array it leaves cannot go along.
    put(
      view
        .table('tierUse')
        .by('volume', volume.id)
        .map((use) => deleted('tierUse', use)),
    );
    put(
      view
        .table('limitUse')
        .by('volume', volume.id)
        .map((use) => deleted('limitUse', use)),
    );
    put(
      [...view.table('hostDevice').by('volume', volume.id)].map((device) =>
        another ? deleted('hostDevice', device) : changed('hostDevice', device, { current: null, weights: [] }),
      ),
    );
  }
  return compacted(effects);
}

/** Hosts that have a volume mounted. */
export const mountedAt = (view: EstateView, volume: string): HostDevice[] =>
  view
    .table('hostDevice')
    .by('volume', volume)
    .filter((device) => device.mountPoint !== null);

/** What keeps a cut from being carried through now, in words; null where nothing does. */
export function cutBar(view: EstateView, row: Move): string | null {
  const volume = view.table('volume').get(row.volume)!;
  const [source, target] = [sourceOf(view, row), targetOf(view, row)];
  for (const array of [source, target]) if (!arrayAnswers(view, array.id)) return `${array.name} does not answer`;
  const link = row.link === null ? undefined : view.table('siteLink').get(row.link);
  if (link?.state === 'down') return `${link.name} is down`;
  const health = volumeHealth(view);
  for (const one of [volume, view.table('volume').get(row.twin!)!])
    if (health(one) === 'lost') return `${poolById(view, one.pool).name} is lost`;
  if (view.table('volume').countBy('origin', volume.id) > 0) return `volumes made of its copies rest on ${volume.name}`;
  if (staysWithin(view, row)) return null;
  const named = lookUp(view, 'volume', volume.name, target.id);
  if (named && named.id !== volume.id) return `${target.name} has another volume ${volume.name}`;
  for (const { host, after, holder } of newWays(view, volume, target, row.identity)) {
    if (after === null) return `${target.name} shows ${host.name} nothing of the kind`;
    if (holder) return `${host.name} sees ${holder.name} by that number at ${target.name}`;
  }
  const [mounted] = row.identity === 'new' ? mountedAt(view, volume.id) : [];
  return mounted ? `it is mounted at ${mounted.mountPoint}, and its hosts would find another device` : null;
}

/** The end of a cut: the last rest is carried, both are compared, identity and paths switch, and hosts go on; or they go on where they were. */
export function cutOver(view: EstateView, row: Move, now: Milliseconds, newId: NewId): Done {
  const volume = view.table('volume').get(row.volume)!;
  const stays = (why: string) => ({
    effects: [
      changed('move', row, {
        state: 'waiting',
        nextAt: now,
        every: 0,
        reason: why,
        log: logged(row, now, `released on the source: ${why}`),
      }),
    ],
    said: [`${row.name} stays where it is: ${why}`],
  });
  const bar = cutBar(view, row);
  if (bar !== null) return stays(bar);
  const twin = view.table('volume').get(row.twin!)!;
  const last = brought(
    view,
    twin,
    showsNow(view, volume),
    { activity: volume.activity, from: row.pit, at: now },
    newId,
  );
  if (last.short > 0) return stays(`${poolById(view, row.toPool).name} has no room for the last rest`);
  const overlay = new Overlay(view);
  overlay.apply(last.effects);
  const target = targetOf(view, row);
  const days = row.proveDays;
  return {
    effects: [
      ...last.effects,
      ...exchanged(overlay, row, newId),
      changed('move', row, {
        state: 'proving',
        since: now,
        cutAt: now,
        pit: now,
        every: 0,
        round: null,
        flows: false,
        nextAt: days > 0 ? now + days * DAY : null,
        reason: '',
        log: logged(
          row,
          now,
          ...CUT_STEPS.map((step) => `${step}: done`),
          `${volume.name} is served by ${target.name} ${poolById(view, row.toPool).name}, hosts waited ${seconds(row.pause ?? 0)}`,
        ),
      }),
    ],
    said: [`${volume.name} is served by ${target.name} ${poolById(view, row.toPool).name}; the way back is kept`],
  };
}
