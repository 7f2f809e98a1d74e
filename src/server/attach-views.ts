import { randomBytes } from 'node:crypto';
import type { Host } from '@/core/estate/entities';
import { mergeFabrics, type MergeAnswer } from '@/core/fabric/merge';
import { mergeSide } from '@/core/fabric/merge-side';
import { testLogin, type LoginTest } from '@/core/iscsi/login-log';
import { mainTarget, targetsOf } from '@/core/iscsi/target';
import { lookUp, type NamedKind } from '@/core/operation/inquiry';
import { hostView, type HostSheet } from '@/core/trace/host-view';
import { topology, type Overlaid, type Topology } from '@/core/trace/topology';
import { componentsOf, findComponent } from '@/core/whatif/components';
import { whatIf, type WhatIf } from '@/core/whatif/report';
import { kindWords } from '@/core/estate/entities';
import { readPathEvents } from '@/store/path-event-rows';
import type { Plant } from './plant';
import { Problem } from './problem';
import { volumeByRef } from './volume-ref';

function asked<K extends NamedKind>(plant: Plant, kind: K, ref: string | null) {
  const row = lookUp(plant.estate, kind, ref ?? '');
  if (!row)
    throw new Problem(
      404,
      `${kind}-unknown`,
      `There is no ${kindWords[kind]} named ${ref || 'nothing'}.`,
      `Give ${kind}=NAME.`,
    );
  return row;
}

export function hostSheet(plant: Plant, ref: string | null): HostSheet {
  const host: Host = asked(plant, 'host', ref);
  const view = plant.estate;
  const name = (kind: 'array' | 'interface' | 'port', id: string) => view.table(kind).get(id)?.name ?? id;
  const events = readPathEvents(plant.store.db, host.id);
  return {
    ...hostView(view, host, { events, now: plant.lab.now }),
    events: events.map((event) => ({
      at: event.at,
      array: name('array', event.array),
      from: name('interface', event.interface),
      to: name('port', event.port),
      before: event.before,
      after: event.after,
      reason: event.reason,
      noticedAfter: Number.isFinite(event.noticedAfter) ? event.noticedAfter : null,
    })),
  };
}

/** Runs a login with the sealed secrets; what it gives back holds none of them. */
export function loginTest(plant: Plant, host: string, array: string, name?: string): LoginTest {
  const at = asked(plant, 'array', array);
  const target = name ? lookUp(plant.estate, 'target', name, at.id) : mainTarget(plant.estate, at.id);
  if (!target)
    throw new Problem(
      404,
      'target-unknown',
      `${at.name} has no target${name ? ` named ${name}` : ''}.`,
      `Known are: ${
        targetsOf(plant.estate, at.id)
          .map((row) => row.name)
          .join(', ') || 'none'
      }.`,
    );
  return testLogin(plant.estate, asked(plant, 'host', host), target, {
    secret: (fingerprint) => plant.vault.open(fingerprint),
    random: (octets) => randomBytes(octets),
  });
}

/** Ids of components that were named by id or by name. */
export function componentIds(plant: Plant, refs: readonly string[]): string[] {
  const components = componentsOf(plant.estate);
  return refs.map((ref) => {
    const found = findComponent(components, ref);
    if (!found)
      throw new Problem(
        404,
        'component-unknown',
        `There is no component ${ref}.`,
        'Name one as the list of components does, such as a1 or lintel-1 controller a.',
      );
    return found.id;
  });
}

export const whatIfAnswer = (plant: Plant, failed: readonly string[], find = ''): WhatIf =>
  whatIf(plant.estate, failed, find, plant.lab.now);

export function topologyAnswer(plant: Plant, query: URLSearchParams): Topology {
  const laid: Overlaid = {};
  const failed = query.getAll('failed').filter(Boolean);
  if (failed.length > 0) laid.failed = componentIds(plant, failed);
  if (query.get('host')) {
    const host = asked(plant, 'host', query.get('host'));
    const volume = volumeByRef(plant.estate, query.get('volume') ?? '');
    if (!volume)
      throw new Problem(404, 'volume-unknown', `There is no volume ${query.get('volume')}.`, 'Give volume=ARRAY/NAME.');
    laid.trace = { host: host.id, volume: volume.id };
  }
  return topology(plant.estate, plant.lab.now, laid);
}

/** What would happen if a link joined two fabrics. */
export function mergeAnswer(plant: Plant, query: URLSearchParams): MergeAnswer {
  const [a, b] = [asked(plant, 'fabric', query.get('a')), asked(plant, 'fabric', query.get('b'))];
  const { outcome, conflicts, setNames, zones, aliases } = mergeFabrics(
    mergeSide(plant.estate, a),
    mergeSide(plant.estate, b),
  );
  return { a: a.name, b: b.name, outcome, conflicts, setNames, zones: zones.size, aliases: aliases.size };
}
