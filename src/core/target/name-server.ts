import { z } from 'zod';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { parseAddress } from '../network/address';
import { draftText } from '../operation/draft';
import { folded, several, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import type { Foretold, OperationType } from '../operation/operation';
import { byItsName, nodeChoices, nodeText, readNodes, settle } from './name-service';

const serverSchema = byItsName.extend({
  ip: z.string().optional(),
  defaultDomain: z.boolean().optional().describe('Nodes in no domain see each other'),
  controlNodes: z.array(z.string()).optional().describe('Hosts, or iSCSI names, that see all that is registered'),
});

export const nameServerConfigure: OperationType<z.output<typeof serverSchema>> = {
  kind: 'name-server.configure',
  verb: 'Set up a name server',
  summary: 'Puts an iSNS server on record, or changes what it does with nodes that are in no domain.',
  schema: serverSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Name server',
      ip: such('Address', '10.40.1.5'),
      defaultDomain: 'Default domain',
      controlNodes: folded(several('Control nodes')),
    },
  },
  title: (p) => `Set up name server ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const present = lookUp(view, 'nameServer', p.name);
    const controlNodes = p.controlNodes
      ? readNodes(view, asks, p.controlNodes, context.month, 'controlNodes')
      : (present?.controlNodes ?? []);
    const name = present ? present.name : asks.freeName('nameServer', p.name);
    const ip = p.ip ? asks.value(parseAddress(p.ip, true), 'ip', { kind: 'nameServer', name: p.ip })?.ip : present?.ip;
    if (!present && !p.ip)
      asks.refuse({
        code: 'parameter-missing',
        field: 'ip',
        subject: { kind: 'nameServer', name: p.name },
        message: 'A new name server needs an address.',
        mend: 'Write it, such as 10.40.1.5.',
      });
    const row = rowOf('nameServer', {
      id: present?.id ?? context.newId('nameServer'),
      name: name ?? '',
      ip: ip ?? '',
      state: present?.state ?? 'up',
      defaultDomain: p.defaultDomain ?? present?.defaultDomain ?? false,
      controlNodes,
    });
    return settle(
      view,
      asks,
      `Name server ${row.name} at ${row.ip}`,
      [present ? changed('nameServer', present, row) : created('nameServer', row)],
      'name',
    );
  },
  foretell(view, draft): Foretold {
    const server = lookUp(view, 'nameServer', draftText(draft, 'name'));
    return {
      fields: {
        name: {},
        ip: server ? { suggested: server.ip } : { says: 'Port 3205.' },
        defaultDomain: { says: 'On: nodes that are in no domain see each other.' },
        controlNodes: {
          choices: nodeChoices(view),
          says: 'They see all that is registered, whatever the domains.',
          ...(server ? { suggested: server.controlNodes.map((one) => nodeText(view, one)) } : {}),
        },
      },
    };
  },
};
