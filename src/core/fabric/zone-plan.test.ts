import fc from 'fast-check';
import { planZones, type PlanZone, type ZoningFacts } from './zone-plan';

describe('the smallest change', () => {
  /** A fabric of plain names: i1… are initiators, t1… targets. */
  const factsOf = (zones: PlanZone[]): ZoningFacts => {
    let made = 0;
    const inside = (zone: PlanZone, letter: string) =>
      [...zone.principals, ...zone.members].filter((member) => member.startsWith(letter));
    return {
      zonesOf: (device) => zones.filter((zone) => [...zone.members, ...zone.principals].includes(device)),
      formsOf: (device) => [device],
      initiatorsIn: (zone) => inside(zone, 'i'),
      targetsIn: (zone) => inside(zone, 't'),
      newName: () => `new${made++}`,
      memberFor: (device) => device,
      defaultPermits: false,
    };
  };
  const zone = (name: string, ...members: string[]): PlanZone => ({ name, kind: 'ordinary', members, principals: [] });
  const planOf = (zones: PlanZone[], want: [string, string][], managed = ['i1']) => {
    const result = planZones(factsOf(zones), want, managed);
    if (!result.ok) throw new Error(result.reason);
    return result.plan;
  };

  test('a target joins the zone the initiator has for itself', () => {
    const plan = planOf(
      [zone('z', 'i1', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
      ],
    );
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([['i1', 't1', 't2']]);
    expect(plan.cost).toBe(1);
  });
  test('a zone of its own that loses its target takes the new one: two members, not four', () => {
    const plan = planOf([zone('z', 'i1', 't1')], [['i1', 't2']]);
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([['i1', 't2']]);
    expect(plan.cost).toBe(2);
  });
  test('a target leaves a shared zone where the others reach it elsewhere', () => {
    const plan = planOf([zone('z', 'i1', 'i2', 't1', 't2'), zone('y', 'i2', 't2')], [['i1', 't1']]);
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('z', 'i1', 'i2', 't1')]);
    expect(plan.cost).toBe(1);
  });
  test('what goes, goes first: the zone that one leaves becomes the other’s own', () => {
    const plan = planOf(
      [zone('z', 'i1', 'i2', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
        ['i1', 't3'],
        ['i2', 't2'],
        ['i2', 't3'],
      ],
      ['i1', 'i2'],
    );
    expect(plan.cost).toBe(6);
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([
      ['i1', 't1', 't2', 't3'],
      ['i2', 't2', 't3'],
    ]);
  });
  test('an initiator never brings a target into a zone it shares', () => {
    const plan = planOf(
      [zone('z', 'i1', 'i2', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
      ],
    );
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('new0', 'i1', 't2')]);
  });
  test('it leaves a zone it shares, and what it still needs becomes its own zone', () => {
    const plan = planOf([zone('z', 'i1', 'i2', 't1', 't2')], [['i1', 't1']]);
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('z', 'i2', 't1', 't2'), zone('new0', 'i1', 't1')]);
  });
  test('a zone left without a pair goes', () => {
    expect(planOf([zone('z', 'i1', 't1')], []).edits).toEqual([{ before: zone('z', 'i1', 't1'), after: null }]);
  });
  test('nothing to do costs nothing', () =>
    expect(planOf([zone('z', 'i1', 't1')], [['i1', 't1']])).toMatchObject({ cost: 0, edits: [] }));

  const initiators = ['i1', 'i2', 'i3'];
  const targets = ['t1', 't2', 't3'];
  const anyZones = fc.array(
    fc.uniqueArray(fc.constantFrom(...initiators, ...targets), { minLength: 1, maxLength: 5 }),
    { maxLength: 5 },
  );
  test('afterwards the managed pairs are just the wanted ones, and no other pair has moved', () =>
    fc.assert(
      fc.property(anyZones, fc.uniqueArray(fc.constantFrom(...targets)), (lists, wanted) => {
        const zones = lists.map((members, k) => zone(`z${k}`, ...members));
        const plan = planOf(
          zones,
          wanted.map((t): [string, string] => ['i1', t]),
        );
        const now = new Map(zones.map((one) => [one.name, one]));
        for (const edit of plan.edits) {
          if (edit.after) now.set(edit.after.name, edit.after);
          else now.delete(edit.before!.name);
        }
        const pairs = (all: PlanZone[]) =>
          initiators.flatMap((i) =>
            targets
              .filter((t) => all.some((one) => one.members.includes(i) && one.members.includes(t)))
              .map((t) => `${i} ${t}`),
          );
        const [was, is] = [pairs(zones), pairs([...now.values()])];
        expect(is.filter((pair) => pair.startsWith('i1'))).toEqual(
          targets.filter((t) => wanted.includes(t)).map((t) => `i1 ${t}`),
        );
        expect(is.filter((pair) => !pair.startsWith('i1'))).toEqual(was.filter((pair) => !pair.startsWith('i1')));
      }),
    ));
});
