import { z } from 'zod';
import { several, the } from '../operation/form';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import type { ArrayRow, Cluster, Fabric, Host } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { switchOf } from '../estate/relations';
import type { FcDevice } from '../fabric/devices';
import { planZones } from '../fabric/zone-plan';
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
import { draftFabric, fabricChoices, refuseUnclearSet } from './ask';
import { hostPorts, targetPorts } from './ports-in-fabric';
import { zoningEffects } from './zoning-effects';
import { factsOf } from './zoning-facts';

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
