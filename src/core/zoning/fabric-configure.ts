import { z } from 'zod';
import { the } from '../operation/form';
import { lossNotes, pathsAround, refuseCut } from '../attach/losses';
import { changed } from '../estate/effects';
import { draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import type { Fabric } from '../estate/entities';
import { movedWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { mappingsOver } from './active';
import { draftFabric, fabricChoices } from './ask';

const schema = z.object({
  fabric: z.string(),
  defaultZone: z.enum(['deny', 'permit']).optional(),
  mergeControl: z.enum(['allow', 'restrict']).optional(),
  zonePattern: z.string().optional().describe('Such as <host>_<hostport>__<array>'),
  aliasPattern: z.string().optional().describe('Such as <host>_<hostport>'),
});
type Params = z.output<typeof schema>;

const fabricWords: FieldWords<Fabric> = {
  defaultZone: (zone) => `default zone ${zone === 'deny' ? 'denies' : 'permits'}`,
  mergeControl: (control) => `merges ${control === 'allow' ? 'allowed' : 'restricted'}`,
  zonePattern: (pattern) => `zones are called ${pattern}`,
  aliasPattern: (pattern) => `aliases are called ${pattern}`,
};

export const fabricConfigure: OperationType<Params> = {
  kind: 'fabric.configure',
  verb: 'Change a fabric',
  summary: 'Sets the default zone, merge control and how zones and aliases are called.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      defaultZone: 'Default zone',
      mergeControl: 'Merges',
      zonePattern: 'Zones are called',
      aliasPattern: 'Aliases are called',
    },
  },
  title: (p) => `Change fabric ${p.fabric}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const fabric = asks.find('fabric', p.fabric, 'fabric');
    for (const [field, pattern] of [
      ['zonePattern', p.zonePattern],
      ['aliasPattern', p.aliasPattern],
    ] as const)
      if (pattern !== undefined && !(pattern.includes('<host>') && pattern.includes('<hostport>')))
        asks.refuse({
          code: 'pattern-too-poor',
          field,
          subject: { kind: 'fabric', name: p.fabric },
          message: `${pattern || 'An empty pattern'} would give two ports one name.`,
          mend: 'Use <host> and <hostport>, and in zones <array>.',
        });
    if (asks.refusals.length > 0 || !fabric) return refused(asks.refusals);
    const after: Fabric = {
      ...withNamed(fabric, p, 'defaultZone', 'mergeControl', 'zonePattern', 'aliasPattern'),
    };
    const effects = [changed('fabric', fabric, after)];
    const around = pathsAround(
      view,
      effects,
      after.defaultZone === fabric.defaultZone ? [] : mappingsOver(view, fabric.id),
    );
    refuseCut(asks, around, subjectOf('fabric', fabric), 'defaultZone');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'fabric', id: fabric.id, name: `fabric ${fabric.name}` },
      title: `Fabric ${fabric.name}: ${movedWords(fabric, after, fabricWords)}`,
      takes: SECOND,
      effects,
      notes: lossNotes(around),
    });
  },
  foretell(view, draft) {
    const fields: Foretold['fields'] = {
      fabric: { choices: fabricChoices(view) },
      defaultZone: {
        choices: [
          { value: 'deny', label: 'Deny' },
          { value: 'permit', label: 'Permit' },
        ],
      },
      mergeControl: {
        choices: [
          { value: 'allow', label: 'Allow' },
          { value: 'restrict', label: 'Restrict' },
        ],
      },
      zonePattern: {},
      aliasPattern: {},
    };
    const fabric = draftFabric(view, draft);
    if (!fabric) return { fields };
    Object.assign(fields.defaultZone!, {
      suggested: fabric.defaultZone,
      says:
        draftText(draft, 'defaultZone') === 'permit'
          ? 'Ports in no zone all see each other.'
          : 'Ports in no zone see nobody.',
    });
    Object.assign(fields.mergeControl!, {
      suggested: fabric.mergeControl,
      says:
        draftText(draft, 'mergeControl') === 'restrict'
          ? 'Another fabric joins only with the same zones.'
          : 'Another fabric joins where its zones do not conflict.',
    });
    Object.assign(fields.zonePattern!, {
      suggested: fabric.zonePattern,
      says: 'Of zones made for a host and an array.',
    });
    Object.assign(fields.aliasPattern!, { suggested: fabric.aliasPattern, says: 'Of aliases made for a port.' });
    return { fields };
  },
};
