import type { Effect } from './effects';

type Loose = Record<string, unknown>;

/** What an array once told of its one target. */
const ofTarget = ['iqn', 'auth', 'authServer', 'chapName', 'chapSecret', 'headerDigest', 'dataDigest', 'isns'] as const;

/** The main target of an array that still tells of it itself; null where it does not. Its id follows from the array's, as the store made it. */
export function targetOfArray(array: Loose): Loose | null {
  if (typeof array.iqn !== 'string' || typeof array.id !== 'string') return null;
  return {
    id: `tgt_${array.id.replace(/^arr_/, '')}`,
    name: 'main',
    array: array.id,
    main: true,
    ...Object.fromEntries(ofTarget.flatMap((field) => (field in array ? [[field, array[field]]] : []))),
  };
}

/** An array without what is its target's now. */
const bare = (row: object | null): object | null =>
  row && Object.fromEntries(Object.entries(row).filter(([field]) => !ofTarget.some((one) => one === field)));

/** Effects of steps that were carried out when arrays told of their targets themselves, so that they can still be taken back. */
export function effectsBroughtUp(effects: readonly Effect[]): Effect[] {
  return effects.flatMap((effect): Effect[] => {
    if (effect.kind !== 'array') return [effect];
    const [before, after] = [effect.before, effect.after].map((row) => row && targetOfArray(row as unknown as Loose));
    if (!before && !after) return [effect];
    const target = { kind: 'target', id: String((before ?? after)!.id), before: before ?? null, after: after ?? null };
    const array = { ...effect, before: bare(effect.before), after: bare(effect.after) } as Effect;
    return [array, target as unknown as Effect].filter(
      (one) => JSON.stringify(one.before) !== JSON.stringify(one.after),
    );
  });
}
