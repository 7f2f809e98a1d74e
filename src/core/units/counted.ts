/** `1 volume`, `2 volumes`; `many` where the plural is no mere s. */
export const counted = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;
