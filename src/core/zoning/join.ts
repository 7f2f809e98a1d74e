import { z } from 'zod';
import { several, the } from '../operation/form';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ActiveZone, type ArrayRow, type Cluster, type Fabric, type Host } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { switchOf } from '../estate/relations';
import { nameKey } from '../estate/table';
import { deviceByWwpn, devicesOf, fcDevices, type FcDevice } from '../fabric/devices';
import { zoneNameFrom } from '../fabric/member';
import { planZones, type PlanZone, type ZonePlan, type ZoningFacts } from '../fabric/zone-plan';
import { activeZonesOf, memberForms } from '../fabric/zoning';
import { formatWwn } from '../naming/wwn';
import { arrayChoices, byName, draftArray, draftList, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import {
  planned,
  refused,
  scratchContext,
  type Foretold,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { draftFabric, fabricChoices, refuseUnclearSet, setFor } from './ask';

const schema = z.object({
  fabric: z.string(),
  host: z.string().optional(),
  cluster: z.string().optional().describe('Instead of a host: all its members'),
  array: z.string(),
  ports: z.array(z.string()).optional().describe('Array ports; without them one of each controller, the least used'),
});
type Params = z.output<typeof schema>;
const partSchema = schema.omit({ ports: true });

const word = (fabric: Fabric) => ({ id: fabric.id, name: `fabric ${fabric.name}`, kind: 'fabric' }) as const;

/** Everything a plan asks of the fabric, from the estate. */
function factsOf(view: EstateView, fabric: Fabric): ZoningFacts {
  const byWwpn = new Map(
    fcDevices(view)
      .filter((device) => device.fabric === fabric.id)
      .map((device) => [device.wwpn, device]),
  );
  const all = [...byWwpn.values()];
  const taken = new Set<string>();
  const inZone = new Map<string, FcDevice[]>();
  const members = (zone: PlanZone): FcDevice[] => {
    const key = `${zone.principals.join()}|${zone.members.join()}`;
    let found = inZone.get(key);
    if (!found) {
      const seen = new Map<string, FcDevice>();
      for (const member of [...zone.principals, ...zone.members])
        for (const device of devicesOf(view, fabric.id, member, () => all)) seen.set(device.id, device);
      inZone.set(key, (found = [...seen.values()]));
    }
    return found;
  };
  return {
    zonesOf: (wwpn) => (byWwpn.has(wwpn) ? activeZonesOf(view, fabric.id, byWwpn.get(wwpn)!) : []),
    formsOf: (wwpn) => (byWwpn.has(wwpn) ? memberForms(byWwpn.get(wwpn)!) : [`wwpn:${wwpn}`]),
    initiatorsIn: (zone) => members(zone).flatMap((device) => (device.role === 'initiator' ? [device.wwpn] : [])),
    targetsIn: (zone) => members(zone).flatMap((device) => (device.role === 'target' ? [device.wwpn] : [])),
    memberFor: (wwpn) => `wwpn:${wwpn}`,
    defaultPermits: fabric.defaultZone === 'permit',
    newName(initiator, targets) {
      const device = byWwpn.get(initiator)!;
      const arrays = [...new Set(targets.map((wwpn) => byWwpn.get(wwpn)?.ownerName ?? ''))].join('-');
      const stem = zoneNameFrom(
        fabric.zonePattern
          .replace('<host>', device.ownerName || 'port')
          .replace('<hostport>', device.name)
          .replace('<array>', arrays)
          .replace('<fabric>', fabric.name),
      );
      let name = stem;
      for (
        let n = 2;
        taken.has(name) ||
        view.table('zone').by('name', nameKey(fabric.id, name)).length > 0 ||
        view.table('activeZone').by('name', nameKey(fabric.id, name)).length > 0;
        n++
      )
        name = `${stem.slice(0, 61)}-${n}`;
      taken.add(name);
      return name;
    },
  };
}

const hostPorts = (view: EstateView, host: Host, fabric: Fabric): FcDevice[] =>
  view
    .table('interface')
    .by('host', host.id)
    .flatMap((row) => (row.wwpn ? (deviceByWwpn(view, row.wwpn) ?? []) : []))
    .filter((device) => device.fabric === fabric.id)
    .sort(byName);

/** Ports of the array in the fabric: those named, else one of each controller, the one with the fewest initiators. */
function targetPorts(
  view: EstateView,
  array: ArrayRow,
  fabric: Fabric,
  named: readonly string[] | undefined,
): FcDevice[] {
  const here = view
    .table('port')
    .by('array', array.id)
    .filter((port) => port.kind === 'fc' && port.switch !== null && switchOf(view, port)?.fabric === fabric.id)
    .sort(byName);
  const chosen = named ? here.filter((port) => named.includes(port.id)) : [];
  if (!named) {
    const fanIn = (wwpn: string): number =>
      new Set(
        view
          .table('activeZone')
          .by('member', `${fabric.id} wwpn:${wwpn}`)
          .map((zone) => zone.id),
      ).size;
    for (const controller of new Set(here.map((port) => port.controller)))
      chosen.push(
        here
          .filter((port) => port.controller === controller && port.state === 'up')
          .sort((a, b) => fanIn(a.wwpn!) - fanIn(b.wwpn!) || byName(a, b))[0] ??
          here.find((port) => port.controller === controller)!,
      );
  }
  return chosen.flatMap((port) => deviceByWwpn(view, port.wwpn!) ?? []);
}

/** How a port is named in a defined zone: by an alias that stands for it alone, else one made for it. */
function aliasFor(
  view: EstateView,
  fabric: Fabric,
  wwpn: string,
  made: Map<string, string>,
  effects: Effect[],
  context: PlanContext,
): string {
  const own = view
    .table('alias')
    .by('fabric', fabric.id)
    .find((alias) => alias.members.length === 1 && alias.members[0] === `wwpn:${wwpn}`);
  if (own) return `alias:${own.name}`;
  const known = made.get(wwpn);
  if (known) return `alias:${known}`;
  const device = deviceByWwpn(view, wwpn);
  if (!device?.ownerName) return `wwpn:${wwpn}`;
  const stem = zoneNameFrom(
    fabric.aliasPattern
      .replace('<host>', device.ownerName)
      .replace('<hostport>', device.name)
      .replace('<array>', device.ownerName),
  );
  const taken = (name: string) =>
    (['alias', 'zone'] as const).some((kind) => view.table(kind).by('name', nameKey(fabric.id, name)).length > 0) ||
    [...made.values()].includes(name);
  let name = stem;
  for (let n = 2; taken(name); n++) name = `${stem.slice(0, 61)}-${n}`;
  made.set(wwpn, name);
  effects.push(
    created(
      'alias',
      rowOf('alias', { id: context.newId('alias'), fabric: fabric.id, name, members: [`wwpn:${wwpn}`] }),
    ),
  );
  return `alias:${name}`;
}

/** Carries a plan out on the active zones and, alike, on the defined ones; changes that wait in the defined set go on waiting. */
export function zoningEffects(view: EstateView, fabric: Fabric, plan: ZonePlan, context: PlanContext): Effect[] {
  const effects: Effect[] = [];
  const made = new Map<string, string>();
  const set = setFor(view, fabric);
  const inSet = new Set(set?.zones ?? []);
  const gone = new Set<string>();
  const aliasOf = (member: string) =>
    member.startsWith('wwpn:') ? aliasFor(view, fabric, member.slice(5), made, effects, context) : member;
  /** A list of a defined zone after members of the active one came and went. */
  const moved = (defined: readonly string[], was: readonly string[], is: readonly string[]): string[] => {
    const goes = was.filter((member) => !is.includes(member));
    const comes = is.filter((member) => !was.includes(member));
    const stands = (member: string) =>
      (member.startsWith('alias:')
        ? view.table('alias').by('name', nameKey(fabric.id, member.slice(6)))[0]?.members
        : undefined) ?? [member];
    // An alias for several of which only some go is replaced by those that stay.
    const kept = defined.flatMap((member) => {
      const all = stands(member);
      const stay = all.filter((one) => !goes.includes(one));
      return stay.length === all.length ? [member] : stay.map(aliasOf);
    });
    return [...new Set([...kept, ...comes.map(aliasOf)])];
  };
  for (const { before, after } of plan.edits) {
    const name = (after ?? before)!.name;
    const active = view
      .table('activeZone')
      .by('name', nameKey(fabric.id, name))
      .find((zone) => zone.name === name);
    const defined = view
      .table('zone')
      .by('name', nameKey(fabric.id, name))
      .find((zone) => zone.name === name);
    if (!after) {
      if (active) effects.push(deleted('activeZone', active));
      if (defined) {
        effects.push(deleted('zone', defined));
        inSet.delete(defined.id);
        gone.add(defined.id);
      }
      continue;
    }
    const now: Omit<ActiveZone, 'id'> = {
      fabric: fabric.id,
      name,
      kind: after.kind,
      members: [...after.members],
      principals: [...after.principals],
    };
    effects.push(
      active
        ? changed('activeZone', active, now)
        : created('activeZone', rowOf('activeZone', { id: context.newId('activeZone'), ...now })),
    );
    if (defined)
      effects.push(
        changed('zone', defined, {
          members: moved(defined.members, before?.members ?? [], after.members),
          principals: moved(defined.principals, before?.principals ?? [], after.principals),
        }),
      );
    else {
      const zone = rowOf('zone', {
        id: context.newId('zone'),
        fabric: fabric.id,
        name,
        kind: after.kind,
        members: after.members.map(aliasOf),
        principals: after.principals.map(aliasOf),
      });
      effects.push(created('zone', zone));
      inSet.add(zone.id);
    }
  }
  if (effects.length === 0) return effects;
  // Other zone sets name zones of the same list: what goes leaves them, too.
  for (const other of view.table('zoneSet').by('fabric', fabric.id))
    if (other.id !== set?.id && other.zones.some((id) => gone.has(id)))
      effects.push(changed('zoneSet', other, { zones: other.zones.filter((id) => !gone.has(id)) }));
  const setName = fabric.activeSet ?? set?.name ?? `set_${fabric.name}`;
  if (set) effects.push(changed('zoneSet', set, { zones: [...inSet] }));
  else
    effects.push(
      created(
        'zoneSet',
        rowOf('zoneSet', { id: context.newId('zoneSet'), fabric: fabric.id, name: setName, zones: [...inSet] }),
      ),
    );
  effects.push(changed('fabric', fabric, { activeSet: setName, activatedAt: context.now }));
  return effects;
}

interface Asked {
  fabric: Fabric;
  array: ArrayRow;
  hosts: Host[];
  who: string;
  initiators: FcDevice[];
  targets: FcDevice[];
}

function ask(view: EstateView, asks: Inquiry, p: Params, joins: boolean): Asked | null {
  const fabric = asks.find('fabric', p.fabric, 'fabric');
  const array = asks.find('array', p.array, 'array');
  const cluster: Cluster | undefined = p.cluster ? asks.find('cluster', p.cluster, 'cluster') : undefined;
  const host = p.cluster ? undefined : asks.find('host', p.host ?? '', 'host');
  const ports =
    p.ports && array ? p.ports.flatMap((ref) => asks.find('port', ref, 'ports', array)?.id ?? []) : undefined;
  const hosts = cluster ? [...view.table('host').by('cluster', cluster.id)].sort(byName) : host ? [host] : [];
  if (fabric) refuseUnclearSet(view, asks, fabric, 'fabric');
  if (!fabric || !array || asks.refusals.length > 0) return null;
  const initiators = hosts.flatMap((one) => hostPorts(view, one, fabric));
  const targets = targetPorts(view, array, fabric, ports);
  const who = cluster?.name ?? host!.name;
  if (initiators.length === 0)
    asks.refuse({
      code: 'no-port-in-fabric',
      field: cluster ? 'cluster' : 'host',
      subject: subjectOf('fabric', fabric),
      message: `${who} has no port in fabric ${fabric.name}.`,
      mend: 'Plug one in, or choose the other fabric.',
    });
  if (joins && targets.length === 0)
    asks.refuse({
      code: 'no-port-in-fabric',
      field: 'ports',
      subject: subjectOf('fabric', fabric),
      message: `${array.name} has no${ports ? ' such' : ''} port in fabric ${fabric.name}.`,
      mend: 'Choose other ports, or the other fabric.',
    });
  return asks.refusals.length > 0 ? null : { fabric, array, hosts, who, initiators, targets };
}

/** The plan, and pairs that stay as they are among the managed initiators. */
function planFor(view: EstateView, asked: Asked, joins: boolean) {
  const facts = factsOf(view, asked.fabric);
  const managed = asked.initiators.map((device) => device.wwpn);
  const drop = new Set(
    view
      .table('port')
      .by('array', asked.array.id)
      .flatMap((port) => port.wwpn ?? []),
  );
  const have = asked.initiators.flatMap((device) =>
    facts.zonesOf(device.wwpn).flatMap((zone) => facts.targetsIn(zone).map((t): [string, string] => [device.wwpn, t])),
  );
  const want: [string, string][] = joins
    ? [...have, ...managed.flatMap((i) => asked.targets.map((t): [string, string] => [i, t.wwpn]))]
    : have.filter(([, t]) => !drop.has(t));
  return planZones(facts, want, managed);
}

function planJoin(view: EstateView, p: Params, context: PlanContext, joins: boolean) {
  const asks = inquire(view);
  const asked = ask(view, asks, p, joins);
  if (!asked) return refused(asks.refusals);
  const { fabric, array, hosts, who } = asked;
  const result = planFor(view, asked, joins);
  if (!result.ok) {
    asks.refuse({
      code: result.reason,
      field: 'host',
      subject: subjectOf('fabric', fabric),
      message: `Zones of fabric ${fabric.name} are so entangled that ${result.pair.map(formatWwn).join(' and ')} would not be as wanted.`,
      mend: 'Split the zone that holds several initiators first.',
    });
    return refused(asks.refusals);
  }
  const { plan } = result;
  const effects = zoningEffects(view, fabric, plan, context);
  const around = pathsAround(
    view,
    effects,
    mappingsOfHosts(
      view,
      hosts.map((host) => host.id),
    ),
  );
  refuseCut(asks, around, subjectOf('fabric', fabric), 'host');
  if (asks.refusals.length > 0) return refused(asks.refusals);
  const pairs = joins ? plan.added.length : plan.dropped.length;
  const notes = lossNotes(around);
  if (pairs === 0)
    notes.push(joins ? `${who} meets those ports already.` : `${who} meets no port of ${array.name} there.`);
  for (const wwpn of plan.leavesDefaultZone)
    notes.push(`${formatWwn(wwpn)} leaves the default zone and loses what that permitted.`);
  const zones = plan.edits.map((edit) => (edit.after ?? edit.before)!.name);
  return planned({
    device: word(fabric),
    title: `${joins ? 'Join' : 'Part'} ${who} ${joins ? 'with' : 'from'} ${array.name} in fabric ${fabric.name}: ${pairs} ${pairs === 1 ? 'pair' : 'pairs'}${zones.length > 0 ? `, ${zones.length === 1 ? `zone ${zones[0]}` : `${zones.length} zones`}` : ''}`,
    takes: 5 * SECOND,
    effects,
    notes,
  });
}

export const zoningJoin: OperationType<Params> = {
  kind: 'zoning.join',
  verb: 'Join a host with an array',
  summary:
    'Computes the smallest change to the zones of a fabric so that a host reaches an array there, makes aliases, and activates it.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      host: the.host,
      cluster: the.cluster,
      array: the.array,
      ports: several('Array ports'),
    },
  },
  title: (p) => `Join ${p.cluster ?? p.host} with ${p.array} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan: (view, p, context) => planJoin(view, p, context, true),
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fabric = draftFabric(view, draft);
    const fields = whoFields(view);
    fields.ports = {};
    fields.fabric!.says = 'One at a time: the paths over the other stay while this one changes.';
    if (!array || !fabric) return { fields };
    const host = lookUp(view, 'host', draftText(draft, 'host'));
    const ports = view
      .table('port')
      .by('array', array.id)
      .filter((port) => port.kind === 'fc' && port.switch !== null && switchOf(view, port)?.fabric === fabric.id)
      .sort(byName);
    fields.ports = {
      choices: ports.map((port) => ({
        value: port.name,
        label: `${port.name}, ${view.table('activeZone').by('member', `${fabric.id} wwpn:${port.wwpn}`).length} zones`,
      })),
      suggested: targetPorts(view, array, fabric, undefined).map((port) => port.name),
    };
    const asks = inquire(view);
    const named = draftList(draft, 'ports');
    const asked = ask(
      view,
      asks,
      {
        fabric: fabric.name,
        array: array.name,
        host: host?.name,
        cluster: draftText(draft, 'cluster') || undefined,
        ...(named.length > 0 ? { ports: named } : {}),
      },
      true,
    );
    if (!asked) return { fields };
    const result = planFor(view, asked, true);
    if (!result.ok) return { fields };
    fields.ports.says = `${asked.initiators.length} × ${asked.targets.length} pairs; ${result.plan.added.length} are new, ${result.plan.cost} ${result.plan.cost === 1 ? 'member changes' : 'members change'}.`;
    const overlay = new Overlay(view);
    overlay.apply(zoningEffects(view, fabric, result.plan, scratchContext()));
    fields.array!.says = `Zones active in fabric ${fabric.name}: ${view.table('activeZone').countBy('fabric', fabric.id)} → ${overlay.table('activeZone').countBy('fabric', fabric.id)}.`;
    return { fields };
  },
};

export const zoningPart: OperationType<z.output<typeof partSchema>> = {
  kind: 'zoning.part',
  verb: 'Part a host from an array',
  summary:
    'Computes the smallest change to the zones of a fabric so that a host no longer reaches an array there, and activates it.',
  schema: partSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      fabric: the.fabric,
      host: the.host,
      cluster: the.cluster,
      array: the.array,
    },
  },
  title: (p) => `Part ${p.cluster ?? p.host} from ${p.array} in fabric ${p.fabric}`,
  units: (p) => [p],
  plan: (view, p, context) => planJoin(view, p, context, false),
  foretell(view, draft) {
    const fields = whoFields(view);
    const [array, fabric] = [draftArray(view, draft), draftFabric(view, draft)];
    const asked =
      array && fabric
        ? ask(
            view,
            inquire(view),
            {
              fabric: fabric.name,
              array: array.name,
              host: draftText(draft, 'host'),
              cluster: draftText(draft, 'cluster') || undefined,
            },
            false,
          )
        : null;
    const result = asked && planFor(view, asked, false);
    if (result?.ok) fields.array!.says = `${result.plan.dropped.length} pairs go, ${result.plan.cost} members change.`;
    return { fields };
  },
};

const whoFields = (view: EstateView): Foretold['fields'] => ({
  fabric: { choices: fabricChoices(view) },
  host: { choices: hostChoices(view) },
  cluster: {
    choices: [...view.table('cluster').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
    says: 'Instead of one host.',
  },
  array: { choices: arrayChoices(view) },
});
