import { legOf, mappingsOf, shownAs } from '../../copies/legs';
import { MOST_PATHS } from '../../attach/families';
import type { Mapping } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf, controllerOf, hostOf, ownerOf, volumeOf } from '../../estate/relations';
import { classWords, componentsOf } from '../../whatif/components';
import { mendFor, reasons } from '../../trace/reasons';
import { offer, type Check, type Severity } from '../finding';
import { aboutHost, traceOf, volumeNames, wantedGaps, type AttachFacts } from './context';
import { someOf, unstopped } from '../../units/counted';

/** Whether a mapping shows the leg of a stretched volume at the other site, to which no path is optimized. */
const isFarLeg = (view: EstateView, mapping: Mapping): boolean =>
  legOf(view, mapping.volume) !== null && arrayOf(view, volumeOf(view, mapping)).site !== hostOf(view, mapping).site;

/** Once a host and array: the mappings that something is the matter with, told together. */
const byHost = (
  id: string,
  severity: Severity,
  title: string,
  matters: (facts: AttachFacts, mapping: Mapping, view: EstateView) => boolean,
  says: (facts: AttachFacts, view: EstateView, names: string, first: Mapping) => string,
  advice: string,
): Check => ({
  id,
  severity,
  title,
  *find(view, { attach }) {
    for (const { host, mappings } of attach().pairings()) {
      yield null;
      const found = mappings.filter((mapping) => matters(attach(), mapping, view));
      if (found.length > 0)
        yield {
          subject: aboutHost(host),
          says: says(attach(), view, someOf(volumeNames(view, found)), found[0]!),
          advice,
          mend: null,
          trace: traceOf(view, host, found[0]!),
        };
    }
  },
});
const hostName = (view: EstateView, mapping: Mapping): string => hostOf(view, mapping).name;

export const pathChecks: Check[] = [
  {
    id: 'paths-fewer-than-expected',
    severity: 'warning',
    title: 'Fewer paths than expected',
    *find(view, { attach }) {
      const { finder, pairings } = attach();
      for (const pairing of pairings()) {
        yield null;
        const { host, array, mappings } = pairing;
        const gaps = wantedGaps(pairing).filter((gap) => gap.transport === 'fc');
        // What a fabric does not zone at all is told by the check of single fabrics.
        const wanted = gaps.filter((gap) => gap.reason !== 'not-zoned');
        const less = mappings.filter((mapping) => {
          const { usable, expected } = finder.count(mapping);
          return usable > 0 && usable < expected;
        });
        if (less.length === 0 || wanted.length === 0) continue;
        const { usable, expected } = finder.count(less[0]!);
        yield {
          subject: aboutHost(host),
          says: `${usable} of ${expected} paths of ${host.name} to ${someOf(volumeNames(view, less))}; missing: ${someOf([...new Set(wanted.map((gap) => unstopped(gap.message)))], 2)}.`,
          advice: reasons[wanted[0]!.reason].advice,
          mend: mendFor({ view, host, array, gap: wanted[0]! }),
          trace: traceOf(view, host, less[0]!),
        };
      }
    },
  },
  byHost(
    'paths-too-many',
    'warning',
    'More paths than help',
    ({ finder }, mapping) => finder.count(mapping).usable > MOST_PATHS,
    ({ finder }, view, names, first) =>
      `${finder.count(first).usable} paths of ${hostName(view, first)} to ${names}; beyond ${MOST_PATHS} they only slow failover.`,
    'Map through fewer ports.',
  ),
  byHost(
    'no-optimized-path',
    'warning',
    'No optimized path',
    ({ finder }, mapping, view) => {
      const { usable, optimized } = finder.count(mapping);
      return usable > 0 && optimized === 0 && !isFarLeg(view, mapping);
    },
    ({ finder }, view, names, first) => {
      const [path] = finder.paths(first).found;
      const owner = ownerOf(view, volumeOf(view, first));
      return `${hostName(view, first)} reaches ${names} only through controller ${controllerOf(view, path!).name}; the owner is ${owner?.name}.`;
    },
    'Restore a path to the owner, or move the ownership.',
  ),
  {
    id: 'multipath-absent',
    severity: 'error',
    title: 'Hosts that do not combine paths',
    *find(view, { attach }) {
      const { finder, pairings } = attach();
      for (const { host, mappings } of pairings()) {
        yield null;
        const many = host.multipath ? [] : mappings.filter((mapping) => finder.count(mapping).usable > 1);
        if (many.length === 0) continue;
        yield {
          subject: aboutHost(host),
          says: `${someOf(volumeNames(view, many))} at ${host.name}: the same identity shows as ${finder.count(many[0]!).usable} disks.`,
          advice: 'Let the host combine paths.',
          mend: offer('Combine paths', 'host.configure', { host: host.name, multipath: true }),
        };
      }
    },
  },
  {
    id: 'spof-component',
    severity: 'warning',
    title: 'Single points of failure',
    *find(view, { attach }) {
      const components = componentsOf(view);
      const spofs = attach().spofs();
      for (const { host, mappings } of attach().pairings()) {
        yield null;
        const carries = new Map<string, Mapping[]>();
        for (const mapping of mappings)
          for (const id of spofs(mapping).design)
            if (components.get(id)?.class !== 'enclosure') carries.set(id, [...(carries.get(id) ?? []), mapping]);
        if (carries.size === 0) continue;
        const found = [...carries].map(([id, own]) => ({ component: components.get(id)!, own }));
        const important = found.some(({ own }) => own.some((one) => volumeOf(view, one).important));
        const names = found.map(({ component }) => `${classWords[component.class]} ${component.name}`);
        yield {
          ...(important ? { severity: 'error' as const } : {}),
          subject: aboutHost(host),
          says: `All paths of ${host.name} to ${someOf(volumeNames(view, found[0]!.own))} go by ${someOf(names, 4)}.`,
          advice: `Give it a second ${[...new Set(found.map(({ component }) => classWords[component.class].replace(' or its cable', '')))].join(', ')}.`,
          mend: null,
        };
      }
    },
  },
  {
    id: 'rescan-needed',
    severity: 'note',
    title: 'Mapped and not looked for',
    *find(view, { attach }) {
      const { finder, pairings } = attach();
      for (const { host, mappings } of pairings()) {
        yield null;
        const known = new Map(
          view
            .table('hostDevice')
            .by('host', host.id)
            .map((row) => [row.volume, row]),
        );
        const unseen = mappings.filter((mapping) => {
          const device = known.get(shownAs(view, mapping.volume));
          const volume = volumeOf(view, mapping);
          return (
            (!device || device.size !== volume.size) && volume.deletedAt === null && finder.count(mapping).usable > 0
          );
        });
        const stale = [...known.values()].filter((row) => mappingsOf(view, host.id, row.volume).length === 0);
        if (unseen.length === 0 && stale.length === 0) continue;
        yield {
          subject: aboutHost(host),
          says:
            unseen.length > 0
              ? `${someOf(volumeNames(view, unseen))} ${unseen.length === 1 ? 'is' : 'are'} mapped, and ${host.name} has not looked.`
              : `${host.name} still holds ${someOf(stale.map((row) => row.name))}, mapped no longer.`,
          advice: 'Rescan.',
          mend: offer('Rescan', 'host.rescan', { host: host.name }),
          ...(unseen[0] ? { trace: traceOf(view, host, unseen[0]) } : {}),
        };
      }
    },
  },
];
