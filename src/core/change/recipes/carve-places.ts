import { z } from 'zod';
import { activityKinds } from '../../kinds/activity';
import { nameSeries } from '../../naming/names';
import { draftText, orNone } from '../../operation/draft';
import { folded, pick, such } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import type { RecipeType, Written } from '../../operation/recipe';
import { headroomsOf } from '../../performance/pool-headroom';
import {
  draftRequest,
  nothingAsked,
  readRequest,
  requestForm,
  requestNote,
  requestParams,
  requestSays,
  requestWords,
  rulesOf,
} from '../../service/request-fields';
import { requestChoices } from '../../service/request-operations';
import { placesOf, severalWords } from '../../service/several';
import { exactBytes } from '../../units/bytes';
import { someOf } from '../../units/counted';
import { carvedFields } from './carved-fields';

const { replica: _replica, notes: _remark, ...asked } = requestParams;
const schema = z.object({
  name: z.string().describe('One name, or the stem of a series; # marks where the number goes'),
  request: z.string().optional().describe('A request that is kept; what is named beside it counts instead'),
  ...asked,
  provisioning: z.enum(['thin', 'thick']).default('thin'),
  workload: z.string().optional(),
  activity: z.enum(activityKinds).optional().describe('What runs on it'),
  plan: z.string().optional().describe('A protection plan of its own; without it that of its workload'),
});
type Params = z.output<typeof schema>;

const { replica: _withCopy, notes: _notes, ...askedForm } = requestForm;

/** The pattern by which part of a series gets the names it has in the whole. */
function patternOf(name: string, count: number): string {
  const digits = '#'.repeat(Math.max(/#+/.exec(name)?.[0].length ?? 1, String(count).length));
  return name.includes('#') ? name.replace(/#+/, digits) : `${name}-${digits}`;
}

/** Volumes carved where a request finds its best place, over several pools and arrays where it asks for that. */
export const carvePlaces: RecipeType<Params> = {
  kind: 'storage.carve',
  verb: 'Carve where it fits best',
  summary:
    'Volumes for a request: over the pools that fit it, together or apart, by room and by what is served with one part failed.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      request: pick('Request'),
      name: such('Name', 'booking'),
      ...askedForm,
      // What is left empty stays as the request has it.
      rules: { label: 'Rules', control: 'lines', placeholder: 'as the request has them' },
      provisioning: folded('Provisioning'),
      workload: folded(pick('Workload')),
      activity: folded('What runs on it'),
      plan: folded(pick('Protection plan')),
    },
  },
  title: (p) =>
    `Carve ${p.name} for ${p.request ? `request ${p.request}` : severalWords(p.volumes ?? 1, p.size ?? 'a size')}`,
  unfold(view, p) {
    const asks = inquire(view);
    const kept = p.request ? asks.find('keptRequest', p.request, 'request') : undefined;
    const subject = { kind: 'volume' as const, name: p.name };
    const figures = readRequest(asks, kept ?? nothingAsked, p, subject);
    if (figures.bytes === 0 && asks.refusals.length === 0)
      asks.refuse({
        code: 'empty',
        field: 'size',
        subject,
        message: 'No size is given.',
        mend: 'Write a number and a unit, such as 500 GiB.',
      });
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const rules = rulesOf(view, figures);
    const { placed, unplaced, says } = placesOf(view, { ...figures, rules }, headroomsOf(view));
    if (unplaced > 0) {
      asks.refuse({
        code: 'no-pool-fits',
        field: 'rules',
        subject,
        message: says,
        mend: 'Ask for less, loosen a rule, or let them go elsewhere.',
      });
      return { ok: false, refusals: asks.refusals };
    }
    const own = figures.serviceClass && view.table('serviceClass').get(figures.serviceClass)!.name;
    const names = nameSeries(p.name, figures.volumes);
    let from = 0;
    const operations = placed.flatMap(({ array, pool, volumes }): Written[] => {
      const here = names.slice(from, from + volumes);
      const series =
        volumes === 1
          ? { name: here[0]! }
          : { name: patternOf(p.name, names.length), count: volumes, startNumber: from + 1 };
      from += volumes;
      return [
        {
          do: 'volume.create',
          array,
          pool,
          ...series,
          size: exactBytes(figures.bytes),
          provisioning: p.provisioning,
          ...(p.workload ? { workload: p.workload } : {}),
          ...(p.activity ? { activity: p.activity } : {}),
          ...(p.plan ? { plan: p.plan } : {}),
        },
        ...(own ? [{ do: 'class.apply', array, class: own, volumes: here }] : []),
      ];
    });
    return { ok: true, operations };
  },
  foretell(view, draft) {
    const kept = lookUp(view, 'keptRequest', draftText(draft, 'request'));
    const figures = draftRequest(view, draft, kept);
    const { replica: _copy, notes: _said, ...says } = requestSays(view, draft, kept);
    return {
      fields: {
        ...says,
        ...carvedFields(view),
        request: {
          choices: orNone(requestChoices(view)),
          says: kept ? requestWords(view, kept) : 'Or what is asked for below.',
        },
        name: {
          says:
            figures.volumes === 1
              ? 'Of the volume.'
              : someOf(nameSeries(draftText(draft, 'name') || 'name', figures.volumes)),
        },
        size: { ...says.size, ...(kept ? { suggested: exactBytes(kept.bytes) } : {}) },
        rules: {
          says: figures.bytes > 0 ? requestNote(view, figures) : 'A size first; then where they go is said here.',
        },
      },
    };
  },
};
