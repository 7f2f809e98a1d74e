import { countAllPaths } from '@/core/attach/paths';
import { portLoads } from '@/core/attach/port-load';
import { previewChange } from '@/core/change/preview';
import type { OperationDocument } from '@/core/change/registry';
import { changed } from '@/core/estate/effects';
import { Overlay, type Estate } from '@/core/estate/estate';
import { zoningJoin } from '@/core/zoning/join';
import { contextFor } from '@/core/change/plan';
import { trace } from '@/core/trace/trace';
import { outage } from '@/core/whatif/outage';
import { componentsOf } from '@/core/whatif/components';
import { pairFinder, spofFinder } from '@/core/whatif/spof';
import { attachChecks } from '@/core/check/attach';
import { checkContext } from '@/core/check/engine';
import { LAB_START } from '../demo/hardware';

const basis = { seed: 'bench', now: LAB_START, month: '2031-04' };

interface Task {
  name: string;
  work: () => unknown;
  target?: number;
}

/** Carving and mapping for 100 hosts, two operations each. */
function twoHundred(): OperationDocument[] {
  return Array.from({ length: 100 }, (_, k) => {
    const array = `lintel-${(k % 40) + 1}`;
    return [
      { do: 'volume.create', array, pool: 'vault', name: `new-${k}`, size: '100 GiB' },
      { do: 'mapping.create', host: `host-${k + 1}`, array, volumes: [`new-${k}`] },
    ];
  }).flat();
}

/** What the attaching half promises on a large estate. */
export function attachingTasks(estate: Estate): Task[] {
  const operations = twoHundred();
  const { refusals } = previewChange(estate, operations, basis);
  if (refusals.length > 0) throw new Error(refusals[0]!.message);
  const mappings = [...estate.table('mapping').values()];
  const host = [...estate.table('host').values()][777]!;
  const [mapping] = estate.table('mapping').by('host', host.id);
  const volume = estate.table('volume').get(mapping!.volume)!;
  const components = componentsOf(estate);
  const core = [...estate.table('switch').values()].find((row) => row.name === 'a-core-1')!.id;
  const edge = [...estate.table('switch').values()].find((row) => row.name === 'a-edge-3')!.id;
  const [controller] = estate.table('controller').values();
  /** The estate with something moved that decides about sessions: nothing that was worked out before holds. */
  const afresh = (): Overlay => {
    const overlay = new Overlay(estate);
    overlay.apply([changed('controller', controller!, {})]);
    return overlay;
  };
  return [
    { name: `count of all paths of ${mappings.length} mappings`, work: () => countAllPaths(afresh()), target: 1000 },
    {
      name: `points of failure of ${mappings.length} pairs`,
      work: () => {
        const find = spofFinder(afresh());
        for (const one of mappings) find(one);
      },
      target: 2000,
    },
    {
      name: 'all pairs of failures of 10,000 pairs',
      work: () => {
        const find = pairFinder(afresh(), components);
        for (const one of mappings.slice(0, 10_000)) find(one);
      },
      target: 2000,
    },
    {
      name: `smallest zoning change among ${estate.table('activeZone').size} active zones`,
      work: () => {
        const planned = zoningJoin.plan(
          estate,
          { fabric: 'A', host: 'host-778', array: 'lintel-9' },
          contextFor(basis, 0, 0),
        );
        if (!planned.ok) throw new Error(planned.refusals[0]!.message);
      },
      target: 200,
    },
    { name: 'a trace', work: () => trace(afresh(), host, volume), target: 10 },
    { name: 'preview of 200 operations', work: () => previewChange(estate, operations, basis), target: 50 },
    { name: 'what-if: an edge and a core switch down', work: () => outage(estate, [edge, core], components) },
    { name: 'load of all array ports', work: () => portLoads(estate) },
    {
      name: 'all checks of attaching',
      work: () => {
        const context = checkContext(estate, basis.now);
        for (const check of attachChecks) for (const found of check.find(estate, context)) void found;
      },
    },
  ];
}
