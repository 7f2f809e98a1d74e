import type { FormSpec } from '@/core/operation/form';

/** Parameters as they are sent: what is empty is left out. */
export function paramsOf(spec: FormSpec, values: Record<string, unknown>): Record<string, unknown> {
  const params: Record<string, unknown> = {};
  for (const { name, control, keepEmpty } of spec.fields) {
    const value = values[name];
    if (control === 'interfaces') {
      const rows = (Array.isArray(value) ? value : []) as { name?: string; address?: string; mtu?: string }[];
      const filled = rows.filter((row) => row.name?.trim() || row.address?.trim());
      if (filled.length > 0)
        params[name] = filled.map((row) => ({
          name: row.name ?? '',
          addresses: row.address?.trim() ? row.address.split(/[\s,;]+/).filter(Boolean) : [],
          ...(row.mtu?.trim() ? { mtu: row.mtu.trim() } : {}),
        }));
      continue;
    }
    if (control === 'switch') {
      if (typeof value === 'boolean') params[name] = value;
      continue;
    }
    if (Array.isArray(value)) {
      const items = (value as unknown[]).filter((item) => typeof item === 'string' && item.trim() !== '');
      if (items.length > 0 || keepEmpty) params[name] = items;
    } else if (typeof value === 'string' && value.trim() !== '') params[name] = value.trim();
  }
  return params;
}

/** The lens of a form: what the reader set of it, else where it starts. */
export function lensOf(spec: FormSpec, values: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    (spec.lens ?? []).map(({ name, range }) => {
      const value = values[name];
      return [name, typeof value === 'string' && value !== '' ? value : (range?.start ?? '')];
    }),
  );
}

/** What the fields of a form start with, from an operation's parameters. */
export function valuesOf(spec: FormSpec, params: Record<string, unknown>): Record<string, unknown> {
  const values: Record<string, unknown> = {};
  for (const { name, control } of spec.fields) {
    const given = params[name];
    if (control === 'interfaces')
      values[name] = Array.isArray(given)
        ? (given as { name?: string; addresses?: string[]; mtu?: number }[]).map((row) => ({
            name: row.name ?? '',
            address: (row.addresses ?? []).join(' '),
            mtu: String(row.mtu ?? ''),
          }))
        : [];
    else if (control === 'several' || control === 'lines' || control === 'drives')
      values[name] = Array.isArray(given) ? given : [];
    else if (control === 'switch') values[name] = given === undefined ? '' : given === true || given === 'true';
    else if (control === 'ports') values[name] = Array.isArray(given) ? given : 'all';
    else values[name] = typeof given === 'string' || typeof given === 'number' ? String(given) : '';
  }
  return values;
}
