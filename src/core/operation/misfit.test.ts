import { z } from 'zod';
import { misfit } from './misfit';

const schema = z.strictObject({
  name: z.string().min(1).max(8),
  mtu: z.number().int().min(576).max(9000).optional(),
  role: z.enum(['none', 'iscsi']).optional(),
  drives: z.array(z.string()).min(1, 'name at least one drive').max(2).optional(),
  interfaces: z.array(z.object({ name: z.string(), mtu: z.number().max(9000) })).optional(),
  ports: z.union([z.array(z.string()), z.literal('all')]).optional(),
  member: z.union([z.object({ port: z.number() }), z.object({ port: z.number(), tcp: z.number().max(10) })]).optional(),
  on: z.boolean().optional(),
  iqn: z
    .string()
    .regex(/^iqn\./)
    .optional(),
});
const said = (input: object) => {
  const whole = { name: 'a', ...input };
  return schema.safeParse(whole).error?.issues.map((issue) => misfit(issue, whole).message);
};

test.each<[object, string]>([
  [{ name: 7 }, 'Name must be a text, not 7.'],
  [{ name: '' }, 'Name must be a text that is not empty, not "".'],
  [{ name: 'far too long' }, 'Name must be at most 8 characters, not "far too long".'],
  [{ mtu: 100 }, 'MTU must be at least 576, not 100.'],
  [{ mtu: 1500.5 }, 'MTU must be a whole number, not 1500.5.'],
  [{ mtu: null }, 'MTU must be a number, not nothing.'],
  [{ role: 'fc' }, 'Role must be one of none, iscsi, not "fc".'],
  [{ drives: [] }, 'Drives: name at least one drive.'],
  [{ drives: ['a', 'b', 'c'] }, 'Drives must be at most 2 entries, not a list.'],
  [
    {
      interfaces: [
        { name: 'eth0', mtu: 1500 },
        { name: 'eth1', mtu: 9999 },
      ],
    },
    'Interfaces, entry 2, MTU must be at most 9000, not 9999.',
  ],
  [{ ports: { a: 1 } }, 'Ports must be a list, or all, not a set of named fields.'],
  [{ ports: 'some' }, 'Ports must be a list, or all, not "some".'],
  [{ member: { port: 1, tcp: 99 } }, ''],
  [{ on: 'perhaps' }, 'On must be true or false, not "perhaps".'],
  [{ iqn: 'eui.1' }, 'IQN cannot be "eui.1".'],
  [{ extra: 1 }, 'What was given has no field extra.'],
])('%j', (input, words) => expect(said(input)?.[0] ?? '').toBe(words));

test('a secret is never said back, and what is long is cut', () => {
  const schema = z.object({ chapSecret: z.string().max(3), notes: z.number() });
  const input = { chapSecret: 'tide tables', notes: 'n'.repeat(500) };
  const said = schema.safeParse(input).error!.issues.map((issue) => misfit(issue, input).message);
  expect(said).toEqual([
    'CHAP secret must be at most 3 characters, not what was given.',
    `Notes must be a number, not "${'n'.repeat(59)} ….`,
  ]);
});

test('every refusal says what would mend it', () => {
  for (const input of [{ name: 7 }, { mtu: 100 }, { role: 'fc' }, { drives: [] }, { iqn: 'eui.1' }, { extra: 1 }]) {
    const whole = { name: 'a', ...input };
    for (const issue of schema.safeParse(whole).error!.issues) expect(misfit(issue, whole).mend).toMatch(/^[A-Z].*\.$/);
  }
});
