import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type DomainSet } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftList, draftText } from '../operation/draft';
import { pick, several } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { refused, type OperationType } from '../operation/operation';
import { counted } from '../units/counted';
import { byItsName, choicesOf, settle } from './name-service';

const setSchema = byItsName.extend({ domains: z.array(z.string()).default([]), enabled: z.boolean().default(true) });
const setChange = byItsName.extend({ domains: z.array(z.string()).optional(), enabled: z.boolean().optional() });

const domainsOf = (view: EstateView, asks: Inquiry, refs: readonly string[]) =>
  refs.flatMap((ref) => asks.find('discoveryDomain', ref, 'domains')?.id ?? []);

export const domainSetCreate: OperationType<z.output<typeof setSchema>> = {
  kind: 'domain-set.create',
  verb: 'Make a domain set',
  summary: 'Gathers discovery domains that are switched on and off together.',
  schema: setSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Domain set',
      domains: several('Domains'),
      enabled: 'Enabled',
    },
  },
  title: (p) => `Domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('domainSet', p.name);
    const domains = domainsOf(view, asks, p.domains);
    return settle(
      view,
      asks,
      `Domain set ${name}: ${counted(domains.length, 'domain')}, ${p.enabled ? 'on' : 'off'}`,
      [
        created(
          'domainSet',
          rowOf('domainSet', { id: context.newId('domainSet'), name: name ?? '', domains, enabled: p.enabled }),
        ),
      ],
      'domains',
    );
  },
  foretell: (view, draft) => ({
    fields: {
      name: {},
      domains: {
        choices: choicesOf(view, 'discoveryDomain'),
        says: `${counted(draftList(draft, 'domains').length, 'domain')}.`,
      },
      enabled: { says: 'Off: its domains do not count.' },
    },
  }),
};

const switchWords = (on: boolean): string => (on ? 'Enable' : 'Disable');

const setWords: FieldWords<DomainSet> = {
  domains: (domains) => counted(domains.length, 'domain'),
  enabled: (on) => (on ? 'on' : 'off'),
};

export const domainSetConfigure: OperationType<z.output<typeof setChange>> = {
  kind: 'domain-set.configure',
  verb: 'Change a domain set',
  summary: 'Switches a domain set on or off, or changes which domains it holds.',
  schema: setChange,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain set'),
      domains: several('Domains'),
      enabled: 'Enabled',
    },
  },
  title: (p) => `${p.enabled === undefined ? 'Change' : switchWords(p.enabled)} domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const set = asks.find('domainSet', p.name, 'name');
    if (!set) return refused(asks.refusals);
    const after: DomainSet = {
      ...set,
      domains: p.domains ? domainsOf(view, asks, p.domains) : set.domains,
      enabled: p.enabled ?? set.enabled,
    };
    return settle(
      view,
      asks,
      `Domain set ${set.name}: ${movedWords(set, after, setWords)}`,
      [changed('domainSet', set, after)],
      'enabled',
    );
  },
  foretell(view, draft) {
    const set = lookUp(view, 'domainSet', draftText(draft, 'name'));
    return {
      fields: {
        name: { choices: choicesOf(view, 'domainSet'), ...(set ? { says: `Now ${set.enabled ? 'on' : 'off'}.` } : {}) },
        domains: {
          choices: choicesOf(view, 'discoveryDomain'),
          ...(set ? { suggested: set.domains.flatMap((id) => view.table('discoveryDomain').get(id)?.name ?? []) } : {}),
        },
        enabled: {
          says: 'Off: its domains do not count.',
          ...(set ? { suggested: String(set.enabled) } : {}),
        },
      },
    };
  },
};

export const domainSetDelete: OperationType<z.output<typeof byItsName>> = {
  kind: 'domain-set.delete',
  verb: 'Drop a domain set',
  summary: 'Takes a domain set off the record; its domains stay.',
  schema: byItsName,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain set'),
    },
  },
  title: (p) => `Drop domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const set = asks.find('domainSet', p.name, 'name');
    return settle(view, asks, `Drop domain set ${p.name}`, set ? [deleted('domainSet', set)] : [], 'name');
  },
  foretell: (view) => ({ fields: { name: { choices: choicesOf(view, 'domainSet'), says: 'Its domains stay.' } } }),
};
