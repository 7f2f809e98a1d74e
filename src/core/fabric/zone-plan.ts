import { zonePermits } from './zoning';

export interface PlanZone {
  name: string;
  kind: 'ordinary' | 'peer';
  members: readonly string[];
  principals: readonly string[];
}

/** What the plan may ask of a fabric; zones are asked for by device, so that a fabric of thousands of zones costs no more than a small one. */
export interface ZoningFacts {
  /** Active zones that name the device. */
  zonesOf(device: string): readonly PlanZone[];
  /** Ways in which zones may name it. */
  formsOf(device: string): readonly string[];
  initiatorsIn(zone: PlanZone): readonly string[];
  targetsIn(zone: PlanZone): readonly string[];
  /** A name no zone has yet. */
  newName(initiator: string, targets: readonly string[]): string;
  /** How a device is written in a zone made for it, an alias or its port name. */
  memberFor(device: string): string;
  /** Whether a device that is in no zone may talk to all that are in none. */
  defaultPermits: boolean;
}

export interface ZoneEdit {
  before: PlanZone | null;
  after: PlanZone | null;
}

export interface ZonePlan {
  edits: ZoneEdit[];
  /** Members added and removed; a new or deleted zone counts all its members. */
  cost: number;
  added: [string, string][];
  dropped: [string, string][];
  /** Initiators that were in the default zone and lose what it permitted. */
  leavesDefaultZone: string[];
}

export type ZonePlanResult =
  { ok: true; plan: ZonePlan } | { ok: false; reason: 'plan-not-exact'; pair: [string, string] };

const pairKey = (i: string, t: string): string => `${i} ${t}`;
const allMembers = (zone: PlanZone): string[] => [...zone.principals, ...zone.members];

/**
 * The smallest change to the zones of a fabric after which just the pairs of `want` may talk among those of the managed initiators; whatever
 * other initiators may do stays as it is. Where an initiator loses targets, either they leave the zone or it does, whichever takes fewer members in all;
 * targets it gains join a zone of its own, else one new zone. The result is computed anew and compared; where it is not exact the
 * plan is refused with the first pair that differs.
 */
export function planZones(
  facts: ZoningFacts,
  want: readonly (readonly [string, string])[],
  managed: readonly string[],
): ZonePlanResult {
  const initiators = [...new Set(managed)].sort();
  const wanted = new Map(initiators.map((i) => [i, new Set<string>()]));
  for (const [i, t] of want) wanted.get(i)?.add(t);
  /** Zones that are touched, by name: as they were, and as they become. */
  const work = new Map<string, ZoneEdit>();
  const present = (zone: PlanZone): PlanZone | null => (work.has(zone.name) ? work.get(zone.name)!.after : zone);
  const put = (zone: PlanZone, after: PlanZone | null) => {
    const known = work.get(zone.name);
    work.set(zone.name, { before: known ? known.before : zone, after });
  };
  const without = (zone: PlanZone, device: string): PlanZone => {
    const forms = facts.formsOf(device);
    return {
      ...zone,
      members: zone.members.filter((member) => !forms.includes(member)),
      principals: zone.principals.filter((member) => !forms.includes(member)),
    };
  };
  const permits = (zone: PlanZone, i: string, t: string) => zonePermits(zone, facts.formsOf(i), facts.formsOf(t));
  const zonesNow = (device: string): PlanZone[] => {
    const own = facts.zonesOf(device).flatMap((zone) => present(zone) ?? []);
    const made = [...work.values()].flatMap(({ before, after }) =>
      before === null && after && facts.formsOf(device).some((form) => allMembers(after).includes(form)) ? [after] : [],
    );
    return [...own, ...made].filter((zone) => facts.formsOf(device).some((form) => allMembers(zone).includes(form)));
  };
  const targetsNow = (i: string): Set<string> =>
    new Set(zonesNow(i).flatMap((zone) => facts.targetsIn(zone).filter((t) => permits(zone, i, t))));
  const before = new Map(initiators.map((i) => [i, targetsNow(i)]));
  const bystanders = new Map<string, Set<string>>();
  for (const i of initiators)
    for (const zone of facts.zonesOf(i))
      for (const other of facts.initiatorsIn(zone))
        if (!wanted.has(other) && !bystanders.has(other)) bystanders.set(other, targetsNow(other));
  const leavesDefaultZone = facts.defaultPermits
    ? initiators.filter((i) => facts.zonesOf(i).length === 0 && wanted.get(i)!.size > 0)
    : [];

  const emptied = (zone: PlanZone): number => Number(facts.targetsIn(zone).length === 0);
  /** A zone that is the initiator's alone: one that lost its targets just now, and would have to go, else the one with most targets. */
  const ownZone = (i: string): PlanZone | undefined =>
    zonesNow(i)
      .filter((zone) => facts.initiatorsIn(zone).every((other) => other === i))
      .sort(
        (a, b) =>
          emptied(b) - emptied(a) ||
          facts.targetsIn(b).length - facts.targetsIn(a).length ||
          (a.name < b.name ? -1 : 1),
      )[0];
  /** Targets that an initiator wants and reaches through this zone alone. */
  const hangsOn = (i: string, zone: PlanZone, targets: readonly string[]): string[] =>
    targets.filter(
      (t) =>
        (wanted.get(i)?.has(t) ?? true) &&
        permits(zone, i, t) &&
        !zonesNow(i).some((other) => other.name !== zone.name && permits(other, i, t)),
    );
  /** Whether it will get a zone of its own in any case, for targets that it does not reach yet. */
  const comesToOwn = (i: string): boolean =>
    wanted.has(i) && !ownZone(i) && [...wanted.get(i)!].some((t) => !targetsNow(i).has(t));
  /** Members it takes to give an initiator targets anew: those, and itself where it has no zone of its own and gets none for others. */
  const givesAnew = (i: string, targets: readonly string[]): number =>
    targets.length === 0 ? 0 : targets.length + (ownZone(i) || comesToOwn(i) ? 0 : 1);

  // What goes, goes first: zones that lose members may take others up afterwards.
  for (const i of initiators)
    for (const zone of zonesNow(i)) {
      const unwanted = facts.targetsIn(zone).filter((t) => permits(zone, i, t) && !wanted.get(i)!.has(t));
      if (unwanted.length === 0) continue;
      const others = facts.initiatorsIn(zone).filter((other) => other !== i);
      const lost = others.map((other) => [other, hangsOn(other, zone, unwanted)] as const);
      const kept = hangsOn(
        i,
        zone,
        facts.targetsIn(zone).filter((t) => !unwanted.includes(t)),
      );
      // Whoever is not managed keeps all that it has.
      const mayLose = lost.every(([other, targets]) => wanted.has(other) || targets.length === 0);
      const leavesNone = facts.targetsIn(zone).every((t) => unwanted.includes(t));
      const byTargets =
        (leavesNone ? allMembers(zone).length : unwanted.length) +
        lost.reduce((sum, [other, targets]) => sum + givesAnew(other, targets), 0);
      // Whoever is left alone in it has a zone of its own then.
      const [last, ...more] = others;
      const byInitiator =
        1 + givesAnew(i, kept) - (last !== undefined && more.length === 0 && comesToOwn(last) ? 1 : 0);
      if (mayLose && (others.length === 0 || byTargets <= byInitiator))
        put(
          zone,
          unwanted.reduce((rest, t) => without(rest, t), zone),
        );
      else put(zone, without(zone, i));
    }
  // A shared zone that was left without targets is taken over by one of its initiators that wants some.
  for (const { after } of [...work.values()]) {
    if (!after || facts.targetsIn(after).length > 0) continue;
    const heir = facts.initiatorsIn(after).find(comesToOwn);
    if (heir)
      put(
        after,
        facts
          .initiatorsIn(after)
          .filter((i) => i !== heir)
          .reduce((rest, i) => without(rest, i), after),
      );
  }
  for (const i of initiators) {
    const missing = [...wanted.get(i)!].filter((t) => !targetsNow(i).has(t)).sort();
    if (missing.length === 0) continue;
    const own = ownZone(i);
    const more = missing.map((t) => facts.memberFor(t));
    if (own)
      put(
        own,
        own.kind === 'peer'
          ? { ...own, principals: [...own.principals, ...more] }
          : { ...own, members: [...own.members, ...more] },
      );
    else {
      const name = facts.newName(i, missing);
      work.set(name, {
        before: null,
        after: { name, kind: 'ordinary', members: [facts.memberFor(i), ...more], principals: [] },
      });
    }
  }
  for (const [name, { before: was, after }] of work) {
    if (!after) continue;
    const useful = facts.initiatorsIn(after).some((i) => facts.targetsIn(after).some((t) => permits(after, i, t)));
    if (!useful) work.set(name, { before: was, after: null });
  }

  const added: [string, string][] = [];
  const dropped: [string, string][] = [];
  for (const i of initiators) {
    const now = targetsNow(i);
    const differs = [...now].find((t) => !wanted.get(i)!.has(t)) ?? [...wanted.get(i)!].find((t) => !now.has(t));
    if (differs !== undefined) return { ok: false, reason: 'plan-not-exact', pair: [i, differs] };
    for (const t of now) if (!before.get(i)!.has(t)) added.push([i, t]);
    for (const t of before.get(i)!) if (!now.has(t)) dropped.push([i, t]);
  }
  for (const [other, had] of bystanders) {
    const now = targetsNow(other);
    const differs = [...had].find((t) => !now.has(t)) ?? [...now].find((t) => !had.has(t));
    if (differs !== undefined) return { ok: false, reason: 'plan-not-exact', pair: [other, differs] };
  }
  const edits = [...work.values()].filter(({ before: was, after }) => (was || after) && was !== after);
  const byPair = (a: [string, string], b: [string, string]) => (pairKey(...a) < pairKey(...b) ? -1 : 1);
  return {
    ok: true,
    plan: {
      edits,
      cost: edits.reduce((sum, edit) => sum + costOf(edit), 0),
      added: added.sort(byPair),
      dropped: dropped.sort(byPair),
      leavesDefaultZone,
    },
  };
}

function costOf({ before, after }: ZoneEdit): number {
  const was = new Set(before ? allMembers(before) : []);
  const is = new Set(after ? allMembers(after) : []);
  return [...is].filter((member) => !was.has(member)).length + [...was].filter((member) => !is.has(member)).length;
}
