import type { Kind, Mapping, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { pathFinder } from '../attach/paths';
import { twinOf } from '../copies/replica';
import { groupsUnder } from '../volume/health';

/** Things of the drawing that can be selected. */
export const selectableKinds = [
  'array',
  'drive',
  'raidGroup',
  'pool',
  'volume',
  'port',
  'network',
  'fabric',
  'interface',
  'host',
] as const satisfies readonly Kind[];
export type SelectableKind = (typeof selectableKinds)[number];

export interface Selection {
  kind: SelectableKind;
  id: string;
}

/** One way from a volume over a port and a network to an interface; broken where the session is missing. */
export interface Hop {
  volume: string;
  port: string;
  network: string | null;
  interface: string;
  broken: boolean;
}

/** All that a selection rests on and carries, by column, with the ways between. */
export interface Chain {
  selection: Selection;
  /** Arrays on which it runs. */
  array: string[];
  drive: string[];
  raidGroup: string[];
  pool: string[];
  volume: string[];
  port: string[];
  network: string[];
  interface: string[];
  host: string[];
  /** Pairs that a line joins. */
  links: { from: string; to: string; broken?: true }[];
  broken: number;
}

type Column = Exclude<keyof Chain, 'selection' | 'array' | 'links' | 'broken'>;
/** In which column a thing is drawn: fabrics stand among the networks. */
const columnOf = (kind: Exclude<SelectableKind, 'array'>): Column => (kind === 'fabric' ? 'network' : kind);
const columns: Column[] = ['drive', 'raidGroup', 'pool', 'volume', 'port', 'network', 'interface', 'host'];

/** Which of a volume's groups and hops the selection lets through; null where the whole volume is out. */
interface Through {
  groups(volume: Volume): string[] | null;
  hop(hop: Hop, mapping: Mapping): boolean;
  /** The volume belongs to the chain even when no hop passes. */
  keepsVolume: boolean;
}

/** Volumes that can have anything to do with the selection, so that not every volume is asked. */
function candidates(view: EstateView, { kind, id }: Selection): readonly Volume[] {
  const volumes = view.table('volume');
  const mapped = (mappings: readonly Mapping[]) =>
    [...new Set(mappings.map((mapping) => mapping.volume))].map((volume) => volumes.get(volume)!);
  // What is copied to another site stands there, too.
  if (kind === 'volume')
    return [volumes.get(id), twinOf(view, id)].filter((one): one is Volume => one !== undefined && one !== null);
  if (kind === 'pool') return volumes.by('pool', id);
  if (kind === 'array') return volumes.by('array', id);
  if (kind === 'host') return mapped(view.table('mapping').by('host', id));
  if (kind === 'interface')
    return mapped(view.table('mapping').by('host', view.table('interface').get(id)!.host ?? ''));
  if (kind === 'drive' || kind === 'raidGroup') {
    const group = kind === 'drive' ? view.table('drive').get(id)!.raidGroup : id;
    const pool = group && view.table('raidGroup').get(group)!.pool;
    return pool ? volumes.by('pool', pool) : [];
  }
  const array = kind === 'port' ? view.table('port').get(id)!.array : null;
  return mapped(
    [...view.table('mapping').values()].filter(
      (mapping) => array === null || volumes.get(mapping.volume)!.array === array,
    ),
  );
}

function through(view: EstateView, { kind, id }: Selection): Through {
  const all = (volume: Volume) => groupsUnder(view, volume);
  const only = (group: string | null) => (volume: Volume) =>
    group !== null && groupsUnder(view, volume).includes(group) ? [group] : null;
  const every = () => true;
  if (kind === 'drive') return { groups: only(view.table('drive').get(id)!.raidGroup), hop: every, keepsVolume: true };
  if (kind === 'raidGroup') return { groups: only(id), hop: every, keepsVolume: true };
  if (kind === 'port') return { groups: all, hop: (hop) => hop.port === id, keepsVolume: false };
  if (kind === 'network' || kind === 'fabric')
    return { groups: all, hop: (hop) => hop.network === id, keepsVolume: false };
  if (kind === 'interface') return { groups: all, hop: (hop) => hop.interface === id, keepsVolume: false };
  if (kind === 'host') return { groups: all, hop: (_, mapping) => mapping.host === id, keepsVolume: true };
  return { groups: all, hop: every, keepsVolume: true };
}

export const exists = (view: EstateView, { kind, id }: Selection): boolean => view.table(kind).get(id) !== undefined;

/**
 * The chains drives → RAID group → pool → volume → port → network → interface → host that pass through the selection. A group keeps only its
 * own drives; a port, network, interface or host only its own paths. The selection must exist.
 */
export function chainOf(view: EstateView, selection: Selection): Chain {
  const sets = Object.fromEntries(columns.map((column) => [column, new Set<string>()])) as Record<Column, Set<string>>;
  const links = new Map<string, { from: string; to: string; broken?: true }>();
  const link = (from: string, to: string, broken = false) => {
    const key = `${from}>${to}`;
    const known = links.get(key);
    if (!known) links.set(key, { from, to, ...(broken ? { broken: true as const } : {}) });
    else if (!broken) delete known.broken;
  };
  const brokenHops = new Set<string>();
  const finder = pathFinder(view);
  const rule = through(view, selection);

  for (const volume of candidates(view, selection)) {
    const groups = rule.groups(volume);
    if (!groups) continue;
    let passes = rule.keepsVolume;
    for (const mapping of view.table('mapping').by('volume', volume.id)) {
      if (!rule.keepsVolume || selection.kind !== 'host' || mapping.host === selection.id) {
        const { found, missing } = finder.paths(mapping);
        const hops: Hop[] = [
          ...found.map((path) => ({
            volume: volume.id,
            port: path.port,
            network: path.network,
            interface: path.interface,
            broken: path.state === 'unavailable',
          })),
          ...missing.map((gap) => ({
            volume: volume.id,
            port: gap.port,
            network: gap.network,
            interface: gap.interface,
            broken: true,
          })),
        ];
        for (const hop of hops) {
          if (!rule.hop(hop, mapping)) continue;
          passes = true;
          sets.port.add(hop.port);
          sets.interface.add(hop.interface);
          sets.host.add(mapping.host);
          link(volume.id, hop.port);
          if (hop.network) {
            sets.network.add(hop.network);
            link(hop.port, hop.network, hop.broken);
            link(hop.network, hop.interface, hop.broken);
          } else link(hop.port, hop.interface, true);
          if (hop.broken) brokenHops.add(`${hop.port} ${hop.interface}`);
        }
        if (
          hops.length === 0 &&
          rule.hop({ volume: volume.id, port: '', network: null, interface: '', broken: true }, mapping)
        )
          sets.host.add(mapping.host);
      }
    }
    if (!passes) continue;
    sets.volume.add(volume.id);
    sets.pool.add(volume.pool);
    link(volume.pool, volume.id);
    for (const group of groups) {
      sets.raidGroup.add(group);
      link(group, volume.pool);
    }
  }
  addBare(view, selection, sets, link);
  for (const id of sets.raidGroup)
    for (const drive of view.table('raidGroup').get(id)!.drives) {
      sets.drive.add(drive);
      link(view.table('drive').get(drive)!.enclosure, id);
    }
  if (selection.kind === 'drive') sets.drive = new Set([selection.id]);
  return {
    selection,
    array: arraysOf(view, sets),
    ...(Object.fromEntries(columns.map((column) => [column, [...sets[column]]])) as Record<Column, string[]>),
    links: [...links.values()],
    broken: brokenHops.size,
  };
}

function arraysOf(view: EstateView, sets: Record<Column, Set<string>>): string[] {
  const arrays = new Set<string>();
  for (const kind of ['drive', 'raidGroup', 'pool', 'volume', 'port'] as const)
    for (const id of sets[kind]) {
      const row = view.table(kind).get(id);
      if (row) arrays.add(row.array);
    }
  return [...arrays];
}

/** What belongs to the selection though no volume carries it further. */
function addBare(
  view: EstateView,
  { kind, id }: Selection,
  sets: Record<Column, Set<string>>,
  link: (from: string, to: string) => void,
): void {
  const addGroup = (group: string) => {
    sets.raidGroup.add(group);
    const pool = view.table('raidGroup').get(group)!.pool;
    if (!pool) return;
    sets.pool.add(pool);
    link(group, pool);
  };
  if (kind === 'drive') {
    const group = view.table('drive').get(id)!.raidGroup;
    if (group) addGroup(group);
  } else if (kind === 'raidGroup') addGroup(id);
  else if (kind === 'pool') for (const group of view.table('raidGroup').by('pool', id)) addGroup(group.id);
  else if (kind === 'array') {
    for (const group of view.table('raidGroup').by('array', id)) addGroup(group.id);
    for (const pool of view.table('pool').by('array', id)) sets.pool.add(pool.id);
    for (const port of view.table('port').by('array', id)) sets.port.add(port.id);
  } else if (kind === 'host') for (const row of view.table('interface').by('host', id)) sets.interface.add(row.id);
  else if (kind === 'interface') {
    const { host } = view.table('interface').get(id)!;
    if (host) sets.host.add(host);
  }
  if (kind !== 'array') sets[columnOf(kind)].add(id);
}
