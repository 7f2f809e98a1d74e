import { useMemo } from 'react';
import type { Receiver, RequestRow } from '@/core/service/answers';
import { keepings } from '@/core/kinds/kept-request';
import type { PlaceQuestion } from '../api/client';
import { useParam } from '../shell/place';
import { partsOf } from './rule-parts';

/** Stands in the address for what is left empty over a kept request that is not. */
const EMPTY = '-';

/** A parameter of the address that says only what differs from the request that is kept. */
function useOver(name: string, before: string): [string, (value: string) => void] {
  const [value, put] = useParam(name, before);
  return [value === EMPTY ? '' : value, (next) => put(next === '' && before !== '' ? EMPTY : next)];
}

/** A host and a cluster may share a name. */
export const nameOf = ({ name, cluster }: Receiver): string => (cluster ? `${name} (cluster)` : name);

/** The request stands in the address, so that a link leads back to it: one that is kept by its name, and what is asked beside it. */
export function useRequest(requests: readonly RequestRow[], receivers: readonly Receiver[]) {
  const [name] = useParam('request');
  const kept = requests.find((one) => one.name === name);
  const [size, setSize] = useOver('size', kept?.size ?? '1 TiB');
  const [iops, setIops] = useOver('iops', String(kept?.iops ?? 1000));
  const [volumes, setVolumes] = useOver('volumes', String(kept?.volumes ?? 1));
  const [keeping, setKeeping] = useOver('keeping', kept?.keeping ?? 'spread');
  const [ofClass, setClass] = useOver('class', kept?.class ?? '');
  const [replica, setReplica] = useOver('copy', kept?.replica ? 'yes' : '');
  const [receiver, setReceiver] = useParam('for');
  const to = receivers.find((one) => nameOf(one) === receiver);
  const [text, setText] = useOver('rules', kept?.rules.join('\n') ?? '');
  const lines = useMemo(() => (text ? text.split('\n') : []), [text]);
  const asked = useMemo<PlaceQuestion>(
    () => ({
      size,
      iops: Number(iops) >= 0 ? Number(iops) : 0,
      volumes: Math.min(1000, Math.max(1, Math.floor(Number(volumes)) || 1)),
      keeping: keepings.find((one) => one === keeping) ?? 'spread',
      ...(ofClass ? { class: ofClass } : {}),
      // A rule that is being written asks nothing yet.
      rules: lines.filter((line) => partsOf(line).value.trim() !== ''),
      replica: replica === 'yes',
      hosts: to?.hosts ?? [],
    }),
    [size, iops, volumes, keeping, ofClass, lines, replica, to],
  );
  return {
    asked,
    kept,
    to,
    lines,
    fields: { size, iops, volumes, keeping, ofClass, replica },
    setSize,
    setIops,
    setVolumes,
    setKeeping,
    setClass,
    setReplica,
    setReceiver,
    setLines: (next: readonly string[]) => setText(next.join('\n')),
  };
}

/** The same as operations name it. */
export const askedFor = ({ asked }: ReturnType<typeof useRequest>): Record<string, unknown> => ({
  size: asked.size,
  volumes: asked.volumes,
  iops: asked.iops,
  keeping: asked.keeping,
  class: asked.class ?? '-',
  rules: asked.rules,
  replica: asked.replica,
});
