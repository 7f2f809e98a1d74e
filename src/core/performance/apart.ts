import type { LoadModel } from './shape';

/** Volumes and resources, by their places in the model. */
export interface Part {
  volumes: number[];
  resources: number[];
}

/** The parts of a model: volumes that share no resource and no limit, however far around, do not touch each other. */
export function partsApart(model: LoadModel): Part[] {
  const parent = new Map<string, string>();
  const top = (id: string): string => {
    let at = id;
    while (parent.get(at) !== at) at = parent.get(at)!;
    return at;
  };
  const join = (a: string, b: string) => {
    for (const id of [a, b]) if (!parent.has(id)) parent.set(id, id);
    const [x, y] = [top(a), top(b)];
    if (x !== y) parent.set(x < y ? y : x, x < y ? x : y);
  };
  model.volumes.forEach((volume, v) => {
    join(`v${v}`, `v${v}`);
    for (const { resource } of volume.uses) join(`v${v}`, `r${resource}`);
  });
  for (const limit of model.limits) for (const { volume } of limit.members) join(`l${limit.id}`, `v${volume}`);
  model.resources.forEach((_, r) => join(`r${r}`, `r${r}`));
  const parts = new Map<string, Part>();
  const partOf = (id: string): Part => {
    const key = top(id);
    let part = parts.get(key);
    if (!part) parts.set(key, (part = { volumes: [], resources: [] }));
    return part;
  };
  model.volumes.forEach((_, v) => partOf(`v${v}`).volumes.push(v));
  model.resources.forEach((_, r) => partOf(`r${r}`).resources.push(r));
  return [...parts.values()];
}
