import { z } from 'zod';
import { families } from '../../attach/families';
import { imageOf } from '../../copies/cut';
import type { Host, OutsideLun } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { keepsData } from '../../move/outside';
import { byName, draftArray, orNone } from '../../operation/draft';
import { folded, pick } from '../../operation/form';
import { inquire } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { backOf, foundOn, lunChoices, ownArrayChoices, stateWords } from '../../outside/ask';
import { draftLuns, lunsForm, lunsSchema } from '../../outside/luns-form';
import { realPools } from '../../pool/direct';
import { someOf } from '../../units/counted';
import { loginSteps, zoningSteps } from './give-storage';

const schema = lunsSchema.extend({
  mount: flag.default(true).describe('Their file systems are mounted at their hosts again'),
  pool: z.string().optional().describe('Their data then moves into this pool, while hosts work'),
});

/** Hosts that are shown a LUN, or were before it was fenced. */
const hostsOf = (view: EstateView, row: OutsideLun): Host[] =>
  [
    ...view
      .table('mapping')
      .by('volume', row.volume)
      .map(({ host }) => host),
    ...row.formerly.map(({ host }) => host),
  ]
    .flatMap((id) => view.table('host').get(id) ?? [])
    .sort(byName);

const open = ({ state }: OutsideLun): boolean => state === 'found' || state === 'inspected' || state === 'fenced';

export const bringIn: RecipeType<z.output<typeof schema>> = {
  kind: 'storage.bring-in',
  verb: 'Bring outside LUNs in',
  summary:
    'LUNs of an outside array come behind this one with their data: inspected, shown to it alone, mapped to their hosts from here, and moved into a pool if one is named.',
  schema,
  form: {
    columns: [2, 3, 4, 5, 6, 7],
    fields: {
      ...lunsForm,
      pool: pick('Then move into'),
      mount: folded({ label: 'Mount them', control: 'switch' }),
    },
  },
  title: (p) => `Bring ${someOf(p.luns)} in behind ${p.array}`,
  unfold(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const rows = array ? p.luns.flatMap((ref) => asks.find('outsideLun', ref, 'luns', array) ?? []) : [];
    if (!array || asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const operations: Written[] = [];
    const hosts = new Map<string, Host>();
    for (const row of rows) for (const host of hostsOf(view, row)) hosts.set(host.id, host);
    const fresh = rows.filter(({ state }) => state === 'found').map(({ name }) => name);
    const bare = rows.filter(({ state }) => state !== 'fenced').map(({ name }) => name);
    if (fresh.length > 0) operations.push({ do: 'outside.inspect', array: array.name, luns: fresh });
    if (bare.length > 0) operations.push({ do: 'outside.keep', array: array.name, luns: bare });
    for (const row of rows) operations.push({ do: 'outside.front', array: array.name, lun: row.name });
    for (const host of hosts.values()) {
      const to = { hosts: [host], cluster: null, name: host.name };
      operations.push(...zoningSteps(view, to, array), ...loginSteps(view, to, array));
    }
    for (const host of hosts.values()) {
      const own = rows.filter((row) => hostsOf(view, row).includes(host));
      const volumes = own.map((row) => backOf(view, row).name);
      operations.push({ do: 'mapping.create', host: host.name, array: array.name, volumes });
      operations.push({ do: 'host.rescan', host: host.name });
      for (const row of p.mount ? own : []) {
        const { name } = backOf(view, row);
        if (imageOf(view, backOf(view, row)) === null || hostsOf(view, row)[0] !== host) continue;
        const mountPoint = `${families[host.os].mountBase}/${name}`;
        operations.push({ do: 'host-device.mount', host: host.name, device: name, mountPoint });
      }
    }
    if (p.pool)
      operations.push({
        do: 'volume.move',
        array: array.name,
        volumes: rows.map((row) => backOf(view, row).name),
        pool: p.pool,
      });
    return { ok: true, operations };
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const rows = draftLuns(view, draft);
    const hosts = [...new Set(rows.flatMap((row) => hostsOf(view, row).map(({ name }) => name)))];
    return {
      fields: {
        array: { choices: ownArrayChoices(view), says: 'Where a look over the fabric has found them.' },
        luns: {
          choices: lunChoices(view, array, (row) => {
            if (!open(row)) return stateWords[row.state];
            const kept = keepsData(foundOn(view, row, context.now));
            return row.state === 'fenced' || kept.ok ? null : kept.message.replace(/\.$/, '').toLowerCase();
          }),
          says:
            rows.length === 0
              ? 'Their hosts stop before, and go on from here.'
              : hosts.length > 0
                ? `${someOf(hosts)} ${hosts.length === 1 ? 'finds' : 'find'} another device with the same data.`
                : 'No host was shown them.',
        },
        pool: {
          choices: orNone((array ? realPools(view, array.id) : []).map(({ name }) => ({ value: name, label: name }))),
          says: 'A person confirms the cut; until the LUN is let go it can be given back.',
        },
        mount: { suggested: 'true', says: 'Under the mount base of their hosts.' },
      },
    };
  },
};
