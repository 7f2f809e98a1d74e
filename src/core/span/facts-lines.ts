import { deviceAt } from '../copies/legs';
import type { EstateView } from '../estate/estate';
import type { HostDevice, Volume } from '../estate/entities';
import { mappingOf, pathFinder, pathWords } from '../attach/paths';
import { readOnlyWhy } from '../attach/write-access';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import type { Post } from './model';
import { groupPosts } from './posts';
import { postOf } from './posts';

/** What the title block says of a selection. */
export interface Facts {
  kind: string;
  name: string;
  post: Post;
  line: string;
  /** Ready-made ways on: an operation with its parameters filled in as far as the selection tells. */
  verbs: { label: string; do: string; params: Record<string, unknown> }[];
  cells: FactCell[];
}
export interface FactCell {
  title: string;
  rows?: { label: string; value: string; mono?: boolean }[];
  lines?: FactLine[];
}
export interface FactLine {
  post?: Post;
  text: string;
  more?: string;
}

/** Facts before their kind is said. */
export type Told = Omit<Facts, 'kind'>;

export { counted as plural } from '../units/counted';

export function groupLine(view: EstateView, id: string): { post: Post; text: string; more: string } {
  const group = view.table('raidGroup').get(id)!;
  const health = groupHealth(view, group);
  const words =
    health.state === 'lost'
      ? 'has lost more drives than it survives'
      : `survives ${health.tolerates} more lost ${health.tolerates === 1 ? 'drive' : 'drives'}`;
  return {
    post: groupPosts[health.state],
    text: `${group.name} ${levelText(shapeOfGroup(group))}`,
    more: words,
  };
}

export function reachedLine(
  view: EstateView,
  finder: ReturnType<typeof pathFinder>,
  host: string,
  volume: Volume,
): { post: Post; text: string; more: string } {
  const mapping = mappingOf(view, host, volume.id)!;
  const paths = finder.paths(mapping);
  const device = deviceAt(view, host, volume.id);
  const seen = device ? deviceWords(device) : 'not looked for yet: rescan';
  const why = paths.missing[0]?.message;
  return {
    post: postOf(paths.usable === 0, paths.usable < paths.expected),
    text: `${view.table('host').get(host)?.name} LUN ${mapping.lun}, ${paths.usable}/${paths.expected}`,
    more: `${readOnlyWhy(view, mapping) === null ? '' : 'read-only; '}${pathWords(paths)}; ${seen}${why ? `. Missing: ${why}` : ''}`,
  };
}

function deviceWords({ name, mountPoint, fileSystem }: HostDevice): string {
  if (mountPoint) return `${name} at ${mountPoint}`;
  return fileSystem ? `${name}, ${fileSystem} not mounted` : `${name}, blank`;
}
