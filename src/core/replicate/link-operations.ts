import { z } from 'zod';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Isl, type Replication, type SiteLink } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { emptied, folded, pick, several, such } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { record } from '../operation/record';
import { counted } from '../units/counted';
import { SECOND } from '../units/duration';
import { formatRate, parseRate } from '../units/rate';
import { parseBits } from './bits';
import { siteNames } from '../stretch/state';
import { lineRate } from './line';
import { linesBetween, placeOf } from './stretched';

const figures = {
  speed: z.string().optional().describe('Bits a second, such as 10 Gb/s'),
  rtt: z.coerce.number().min(0).max(10_000).optional().describe('There and back, milliseconds'),
  km: z.coerce.number().min(0).max(40_000).optional().describe('Length of its route'),
  loss: z.coerce.number().min(0).max(50).optional().describe('Segments that are lost, per cent'),
  dayCap: z
    .string()
    .optional()
    .describe('What replication may take of it from 6 to 22 UTC, such as 50 MiB/s; none for all'),
  nightCap: z.string().optional().describe('What it may take from 22 to 6 UTC; none for all'),
  isls: z.array(z.string()).optional().describe('Inter-switch links that run over it'),
  networks: z.array(z.string()).optional().describe('Networks that it carries from one site to the other'),
  notes: z.string().max(1000).optional(),
};
const figureFields = {
  speed: such('Speed', '10 Gb/s'),
  rtt: such('Round trip, ms', '0.62'),
  km: folded(such('Route, km', '38')),
  loss: folded(such('Lost, %', '0')),
  dayCap: folded(such('By day at most', '50 MiB/s')),
  nightCap: folded(such('By night at most', 'none')),
  isls: folded(emptied(several('Carries links'))),
  networks: folded(emptied(several('Carries networks'))),
  notes: folded('Notes'),
};

/** The figures of a line that are given. */
function readFigures(asks: Inquiry, p: z.output<z.ZodObject<typeof figures>>, name: string): Partial<SiteLink> {
  const given: Partial<SiteLink> = {};
  if (p.speed) {
    const bits = asks.value(parseBits(p.speed), 'speed', { kind: 'siteLink', name });
    if (bits !== undefined) given.bitsPerS = bits;
  }
  if (p.rtt !== undefined) given.rtt = p.rtt;
  if (p.km !== undefined) given.km = p.km;
  if (p.loss !== undefined) given.loss = p.loss / 100;
  for (const field of ['dayCap', 'nightCap'] as const) {
    const text = p[field];
    if (!text) continue;
    const cap =
      text.trim().toLowerCase() === 'none' ? null : asks.value(parseRate(text), field, { kind: 'siteLink', name });
    if (cap === 0)
      asks.refuse({
        code: 'cap-nothing',
        field,
        subject: { kind: 'siteLink', name },
        message: `Nothing would go over ${name}.`,
        mend: 'Write a rate, or none for all of it.',
      });
    else if (cap !== undefined) given[field] = cap;
  }
  if (p.notes !== undefined) given.notes = p.notes;
  return given;
}

export const siteChoices = (view: EstateView): Choice[] =>
  [...view.table('site').values()].sort(byName).map(({ name }) => ({ value: name, label: name }));

export const siteLinkChoices = (view: EstateView): Choice[] =>
  [...view.table('siteLink').values()].sort(byName).map((link) => ({
    value: link.name,
    label: `${link.name}, ${link.sites.map((id) => view.table('site').get(id)!.name).join(' and ')}`,
  }));

const throughWords = (link: Pick<SiteLink, 'bitsPerS' | 'rtt' | 'loss'>): string => {
  const { bytesPerS, boundBy } = lineRate(link);
  const why = { link: 'the line itself', loss: 'lost segments', window: 'windows over the round trip' }[boundBy];
  return `Brings ${formatRate(Math.round(bytesPerS))} through, held back by ${why}.`;
};

function figuresForetold(
  view: EstateView,
  draft: Parameters<OperationType['foretell']>[1],
  before?: SiteLink,
): Foretold['fields'] {
  const bits = parseBits(draftText(draft, 'speed') || (before ? `${before.bitsPerS} b/s` : ''));
  const rtt = Number(draftText(draft, 'rtt') || before?.rtt || 0);
  const loss = draftText(draft, 'loss') ? Number(draftText(draft, 'loss')) / 100 : (before?.loss ?? 0);
  return {
    speed: {
      says: bits.ok ? throughWords({ bitsPerS: bits.value, rtt, loss }) : 'In bits a second, as lines are sold.',
    },
    rtt: { says: 'Measured between the arrays.' },
    km: { says: 'Light takes 5 µs for each km of it.' },
    loss: { says: 'Each lost segment makes its session slow down.' },
    dayCap: { says: 'From 6 to 22 UTC; left empty or none, all of it.' },
    nightCap: { says: 'From 22 to 6 UTC; left empty or none, all of it.' },
    isls: {
      choices: [...view.table('isl').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
      says: 'Inter-switch links that run over the same fibre: they fall with it, and what hosts send by them goes first.',
      ...(before ? { suggested: before.isls.map((id) => view.table('isl').get(id)!.name) } : {}),
    },
    networks: {
      choices: [...view.table('network').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
      says: 'What hosts at one site send by them to arrays at the other goes first, and stops where no line that carries them is up.',
      ...(before ? { suggested: before.networks.map((id) => view.table('network').get(id)!.name) } : {}),
    },
    notes: { says: 'Whose line it is, whom to call.' },
  };
}

/** The sites at both ends of an inter-switch link. */
const endsOf = (view: EstateView, { a, b }: Isl): string[] =>
  [a, b].map((id) => view.table('switch').get(id)!.site).sort();

/** Inter-switch links that are named to run over a line: each joins its two sites, and runs over no other. */
function readIsls(
  view: EstateView,
  asks: Inquiry,
  named: readonly string[],
  link: Pick<SiteLink, 'id' | 'name' | 'sites'>,
): string[] {
  return named.flatMap((text) => {
    const isl = asks.find('isl', text, 'isls');
    if (!isl) return [];
    const no = (code: string, message: string, mend: string) =>
      asks.refuse({ code, field: 'isls', subject: subjectOf('isl', isl), message, mend });
    const [other] = view
      .table('siteLink')
      .by('isl', isl.id)
      .filter((one) => one.id !== link.id);
    if (other) no('isl-carried', `${isl.name} runs over ${other.name}.`, `Take it from ${other.name} first.`);
    if (endsOf(view, isl).join() !== [...link.sites].sort().join())
      no('isl-elsewhere', `${isl.name} does not join the sites of ${link.name}.`, 'Leave it out.');
    return isl.id;
  });
}

/** Networks that are named to run over a line: each begins at one of its sites. Several lines may carry one. */
function readNetworks(
  view: EstateView,
  asks: Inquiry,
  named: readonly string[],
  link: Pick<SiteLink, 'name' | 'sites'>,
): string[] {
  return named.flatMap((text) => {
    const network = asks.find('network', text, 'networks');
    if (!network) return [];
    if (!link.sites.includes(network.site))
      asks.refuse({
        code: 'network-elsewhere',
        field: 'networks',
        subject: subjectOf('network', network),
        message: `${network.name} belongs to ${view.table('site').get(network.site)!.name}, where ${link.name} does not end.`,
        mend: 'Leave it out.',
      });
    return network.id;
  });
}

/** What becomes of the paths of hosts at both sites; refuses what takes the last one to a mounted volume. */
function networkLosses(
  view: EstateView,
  asks: Inquiry,
  link: SiteLink,
  { effects, field }: { effects: readonly Effect[]; field: string },
): string[] {
  const hosts = [...view.table('host').values()].filter(({ site }) => link.sites.includes(site));
  const mappings = mappingsOfHosts(
    view,
    hosts.map(({ id }) => id),
  );
  const around = pathsAround(view, effects, mappings);
  refuseCut(asks, around, subjectOf('siteLink', link), field);
  return lossNotes(around);
}

const createSchema = z.object({ name: z.string(), from: z.string(), to: z.string(), ...figures });

export const siteLinkCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'site-link.create',
  verb: 'Note a link between sites',
  summary: 'A line that replication between two sites shares: how fast, how far, how lossy.',
  schema: createSchema,
  form: { columns: [3, 4, 7], fields: { name: 'Name', from: pick('From'), to: pick('To'), ...figureFields } },
  title: (p) => `Note link ${p.name} between ${p.from} and ${p.to}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('siteLink', p.name);
    const [from, to] = [asks.find('site', p.from, 'from'), asks.find('site', p.to, 'to')];
    const given = readFigures(asks, { ...p, speed: p.speed ?? '' }, p.name);
    if (from && to && from.id === to.id)
      asks.refuse({
        code: 'link-one-site',
        field: 'to',
        subject: subjectOf('site', to),
        message: `Both ends would be at ${to.name}.`,
        mend: 'Choose another site.',
      });
    if (given.bitsPerS === undefined && asks.refusals.length === 0)
      asks.refuse({
        code: 'speed-missing',
        field: 'speed',
        subject: { kind: 'siteLink', name: p.name },
        message: `How fast ${p.name} is, is not said.`,
        mend: 'Write a speed, such as 10 Gb/s.',
      });
    const id = context.newId('siteLink');
    const ends = { id, name: p.name, sites: from && to ? [from.id, to.id] : [] };
    const known = from && to && from.id !== to.id;
    const isls = known ? readIsls(view, asks, p.isls ?? [], ends) : [];
    const networks = known ? readNetworks(view, asks, p.networks ?? [], ends) : [];
    if (asks.refusals.length > 0 || !name || !from || !to) return refused(asks.refusals);
    const link = rowOf('siteLink', {
      id,
      isls,
      networks,
      name,
      sites: [from.id, to.id],
      rtt: 0,
      ...given,
      bitsPerS: given.bitsPerS!,
    });
    return planned({
      device: record,
      title: `Note link ${name}: ${from.name} to ${to.name}`,
      takes: SECOND,
      effects: [created('siteLink', link)],
      notes: [throughWords(link)],
    });
  },
  foretell(view, draft) {
    return {
      fields: {
        name: { says: 'As people call it.' },
        from: { choices: siteChoices(view) },
        to: { choices: siteChoices(view) },
        ...figuresForetold(view, draft),
      },
    };
  },
};

const configureSchema = z.object({ link: z.string(), newName: z.string().optional(), ...figures });

export const siteLinkConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'site-link.configure',
  verb: 'Change a link between sites',
  summary: 'Its name and figures. What is not named stays.',
  schema: configureSchema,
  form: { columns: [3, 4, 7], fields: { link: pick('Link'), ...figureFields, newName: folded('New name') } },
  title: (p) => `Change link ${p.link}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const link = asks.find('siteLink', p.link, 'link');
    if (!link) return refused(asks.refusals);
    const given = readFigures(asks, p, link.name);
    const name = p.newName ? asks.freeName('siteLink', p.newName, undefined, 'newName', link) : link.name;
    if (p.isls) given.isls = readIsls(view, asks, p.isls, link);
    if (p.networks) given.networks = readNetworks(view, asks, p.networks, link);
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const after = { ...link, ...given, name };
    const effects = [changed('siteLink', link, { ...given, name })];
    const losses = given.networks ? networkLosses(view, asks, link, { effects, field: 'networks' }) : [];
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const users = view.table('replication').countBy('link', link.id);
    return planned({
      device: record,
      title: `Link ${link.name}${name === link.name ? '' : ` is called ${name}`}: ${formatRate(Math.round(lineRate(after).bytesPerS))}`,
      takes: SECOND,
      effects,
      notes: [
        throughWords(after),
        ...losses,
        ...(users > 0 ? [`${counted(users, 'replication')} ${users === 1 ? 'uses' : 'use'} it.`] : []),
      ],
    });
  },
  foretell(view, draft) {
    const link = lookUp(view, 'siteLink', draftText(draft, 'link'));
    return {
      fields: {
        link: { choices: siteLinkChoices(view), says: link ? throughWords(link) : '' },
        ...figuresForetold(view, draft, link),
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

/** A stretched volume that has no other line to its witness than this. */
const asksOver = (view: EstateView, link: SiteLink): Replication | undefined =>
  view
    .table('replication')
    .by('stretched', '')
    .find((row) => {
      const witness = view.table('witness').get(row.witness!)!;
      return siteNames.some((site) => {
        const lines = linesBetween(view, placeOf(view, row, site).id, witness.site);
        return lines.length === 1 && lines[0]!.id === link.id;
      });
    });

const deleteSchema = z.object({ link: z.string() });

export const siteLinkDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'site-link.delete',
  verb: 'Forget a link between sites',
  summary: 'Forgets a line that nothing uses.',
  schema: deleteSchema,
  form: { columns: [3, 4, 7], fields: { link: pick('Link') } },
  title: (p) => `Forget link ${p.link}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const link = asks.find('siteLink', p.link, 'link');
    if (!link) return refused(asks.refusals);
    const [user] = view.table('replication').by('link', link.id);
    if (user)
      return refused([
        {
          code: 'link-used',
          field: 'link',
          subject: subjectOf('siteLink', link),
          message: `${user.name} is carried over ${link.name}.`,
          mend: `Let ${user.name} use another link first.`,
        },
      ]);
    const asking = asksOver(view, link);
    if (asking)
      return refused([
        {
          code: 'link-used',
          field: 'link',
          subject: subjectOf('siteLink', link),
          message: `${asking.name} asks its witness over ${link.name}, and has no other line to it.`,
          mend: 'Note another line to the witness first.',
        },
      ]);
    const effects = [deleted('siteLink', link)];
    const notes = link.networks.length > 0 ? networkLosses(view, asks, link, { effects, field: 'link' }) : [];
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({ device: record, title: `Forget link ${link.name}`, takes: SECOND, effects, notes });
  },
  foretell: (view) => ({ fields: { link: { choices: siteLinkChoices(view) } } }),
};
