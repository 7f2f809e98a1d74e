/** Order by code points, the same on every machine: below 0 where `a` comes first. */
export const byCodePoint = <T extends string | number>(a: T, b: T): number => Number(a > b) - Number(a < b);
