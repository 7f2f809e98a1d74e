'use client';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { SpanArray, SpanHead, SpanHost, SpanModel } from '@/core/span/model';
import { unpackStorey, type HostLine, type HostPorts, type SpanWork } from '@/core/span/sight';
import { unpacked } from '@/core/units/packed';
import { api, type Sight } from '../api/client';

/** A host as it is drawn: its ports once they are known. */
export interface DrawnHost extends HostLine {
  interfaces: SpanHost['interfaces'] | null;
}

/** An array as it is drawn: what stands on it once that is known. */
export interface DrawnArray {
  head: SpanHead;
  storey: SpanArray | null;
}

export interface DrawnSpan extends Pick<SpanModel, 'networks' | 'totals' | 'faults'> {
  arrays: DrawnArray[];
  hosts: DrawnHost[];
  work: SpanWork[];
}

/** Hosts are read with their ports by so many at a time. */
const BLOCK = 40;

const read = (sight: Sight) => ({
  ...sight,
  hosts: unpacked(sight.hosts),
  storeys: new Map(sight.storeys.map((one) => [one.id, unpackStorey(one)])),
  portsOf: portsByHost(sight.ports ?? []),
});
const portsByHost = (hosts: readonly HostPorts[]) => new Map(hosts.map(({ id, interfaces }) => [id, interfaces]));

/** What the drawing shows: at first what is told of the whole, then storeys and hosts as they come into sight. */
export function useSpan(arraysInSight: ReadonlySet<string>, hostsInSight: ReadonlySet<string>) {
  const sight = useQuery({ queryKey: ['span'], queryFn: async () => read(await api.sight()) });
  const known = sight.data;

  const wanted = known ? known.heads.filter(({ id }) => arraysInSight.has(id) && !known.storeys.has(id)) : [];
  const storeys = useQueries({
    queries: wanted.map(({ id }) => ({
      queryKey: ['span', 'storey', id],
      queryFn: async () => unpackStorey(await api.storey(id)),
    })),
    combine: (answers) => answers.flatMap(({ data }) => data ?? []),
  });

  const blocks = useMemo(
    () => blocksInSight(known && !known.ports ? known.hosts : [], hostsInSight),
    [known, hostsInSight],
  );
  const ports = useQueries({
    queries: blocks.map((ids) => ({
      queryKey: ['span', 'hosts', ids[0], ids.at(-1), ids.length],
      queryFn: async () => (await api.spanHosts(ids)).items,
    })),
    combine: (answers) => answers.flatMap(({ data }) => data ?? []),
  });

  const model = useMemo((): DrawnSpan | undefined => {
    if (!known) return undefined;
    const stands = new Map([...known.storeys, ...storeys.map((one) => [one.id, one] as const)]);
    const portsOf = new Map([...known.portsOf, ...portsByHost(ports)]);
    return {
      arrays: known.heads.map((head) => ({ head, storey: stands.get(head.id) ?? null })),
      hosts: known.hosts.map((host) => ({ ...host, interfaces: portsOf.get(host.id) ?? null })),
      networks: known.networks,
      totals: known.totals,
      faults: known.faults,
      work: known.work,
    };
  }, [known, storeys, ports]);
  return { model, error: sight.error, refetch: sight.refetch };
}

/** Blocks of hosts, in their order, of which one at least is in sight. */
function blocksInSight(hosts: readonly HostLine[], inSight: ReadonlySet<string>): string[][] {
  const blocks: string[][] = [];
  for (let from = 0; from < hosts.length; from += BLOCK) {
    const block = hosts.slice(from, from + BLOCK);
    if (block.some(({ id }) => inSight.has(id))) blocks.push(block.map(({ id }) => id));
  }
  return blocks;
}
