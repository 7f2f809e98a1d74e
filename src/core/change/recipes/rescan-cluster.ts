import { z } from 'zod';
import { pick } from '../../operation/form';
import { look } from '../../attach/host-rescan';
import { askReceivers, clusterChoices, draftReceivers } from '../../attach/receivers';
import { inquire } from '../../operation/inquiry';
import type { RecipeType } from '../../operation/recipe';

const schema = z.object({ cluster: z.string() });
type Params = z.output<typeof schema>;

export const rescanCluster: RecipeType<Params> = {
  kind: 'cluster.rescan',
  verb: 'Let a cluster rescan',
  summary: 'Every member of a host cluster looks again for what is mapped to it.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      cluster: pick('Cluster'),
    },
  },
  title: (p) => `Rescan ${p.cluster}`,
  unfold(view, p) {
    const asks = inquire(view);
    const to = askReceivers(view, asks, p);
    return to && asks.refusals.length === 0
      ? { ok: true, operations: to.hosts.map((host) => ({ do: 'host.rescan', host: host.name })) }
      : { ok: false, refusals: asks.refusals };
  },
  foretell(view, draft, context) {
    const to = draftReceivers(view, draft);
    const found = to?.cluster ? to.hosts.map((host) => ({ host: host.name, ...look(view, host, context) })) : [];
    const says = found
      .map(({ host, appears, goes }) => {
        const moved = [...appears, ...goes.map((name) => `${name} goes`)];
        return `${host}: ${moved.join(', ') || 'nothing new'}`;
      })
      .join('; ');
    return {
      fields: { cluster: { choices: clusterChoices(view), says: says ? `${says}.` : 'Each member looks in turn.' } },
    };
  },
};
