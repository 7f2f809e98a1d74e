import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const domainSetKind = kind({
  words: ['domain set', 'domain sets'],
  prefix: 'dds',
  path: 'domain-sets',
  row: z.object({ id, name, domains: z.array(id), enabled: z.boolean().default(true) }),
  refers: {
    domains: to('discoveryDomain', { by: 'domain' }),
  },
  named: '',
});
export type DomainSet = RowOf<typeof domainSetKind>;
