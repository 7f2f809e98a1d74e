import { z } from 'zod';
import type { Replication, Site } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { byName, draftText } from '../../operation/draft';
import { pick, such } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import type { RecipeType, Unfolded } from '../../operation/recipe';
import { subjectOf } from '../../operation/refusal';
import { riskWords } from '../../replicate/ask';
import { fences, fenceWords } from '../../replicate/replication-turn';
import { presentRoles, sidesOf } from '../../replicate/sides';
import { counted, someOf } from '../../units/counted';

const schema = z.object({
  site: z.string().describe('The site that is given up'),
  fence: z.enum(fences).describe('How what stands there is kept off'),
  confirm: z.string().optional().describe('The name of the site, typed'),
});
type Params = z.output<typeof schema>;

/** Replications that come from a site and have something whole elsewhere, in the turns in which they come back. */
const comingFrom = (view: EstateView, site: Site): Replication[] =>
  [...view.table('replication').values()]
    .filter((row) => sidesOf(view, row).sourceSite === site.name && row.state !== 'failed-over')
    .sort((a, b) => a.tier - b.tier || byName(a, b));

/** Those without an image cannot come back. */
const whole = (rows: readonly Replication[]): Replication[] => rows.filter(({ image }) => image);

export const failSiteOver: RecipeType<Params> = {
  kind: 'site.fail-over',
  verb: 'Fail a site over',
  summary: 'Everything that is copied from a lost site comes back at the others, turn after turn.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      site: pick('Site'),
      fence: pick('What stands there is kept off'),
      confirm: such('Type its name', 'to confirm'),
    },
  },
  title: (p) => `Fail ${p.site} over`,

  unfold(view, p): Unfolded {
    const asks = inquire(view);
    const site = asks.find('site', p.site, 'site');
    if (!site) return { ok: false, refusals: asks.refusals };
    const rows = whole(comingFrom(view, site));
    if (rows.length === 0)
      asks.refuse({
        code: 'nothing-to-fail-over',
        field: 'site',
        subject: subjectOf('site', site),
        message: `Nothing that is copied from ${site.name} stands whole elsewhere.`,
        mend: 'Choose another site.',
      });
    else if ((p.confirm ?? '').trim().toLowerCase() !== site.name.toLowerCase())
      asks.refuse({
        code: 'site-confirm-fail-over',
        field: 'confirm',
        subject: subjectOf('site', site),
        message: `${someOf(rows.map(({ name }) => name))} would be served elsewhere, and what ${site.name} alone has of them is lost.`,
        mend: `Type ${site.name} to confirm.`,
      });
    if (asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    return {
      ok: true,
      operations: rows.map((row) => ({
        do: 'replication.failover',
        replication: row.name,
        confirm: row.name,
        // What answers is closed by itself; it is given up all the same.
        ...(presentRoles(view, row).sites[row.source] === 'up' ? { sourceStopped: true } : {}),
        fence: p.fence,
      })),
    };
  },

  foretell(view, draft, { now }) {
    const site = lookUp(view, 'site', draftText(draft, 'site'));
    const rows = site ? comingFrom(view, site) : [];
    const left = rows.filter(({ image }) => !image);
    return {
      fields: {
        site: {
          choices: [...view.table('site').values()].sort(byName).map((one) => {
            const many = whole(comingFrom(view, one)).length;
            return {
              value: one.name,
              label: `${one.name}, ${counted(many, 'replication')}`,
              ...(many === 0 ? { unfit: 'nothing comes from there' } : {}),
            };
          }),
          says: site
            ? [
                ...whole(rows).map((row) => `Turn ${row.tier}, ${row.name}: ${riskWords(view, row, now)}`),
                ...left.map(({ name }) => `${name} has nothing whole elsewhere.`),
              ].join(' ')
            : 'The one that is lost.',
        },
        fence: {
          choices: fences.map((value) => ({ value, label: fenceWords[value] })),
          says: 'Both sides must never serve.',
        },
        confirm: { says: 'Capitals and small letters are the same.' },
      },
    };
  },
};
