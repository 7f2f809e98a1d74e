import { z } from 'zod';
import { pick, the } from '../operation/form';
import { deleted } from '../estate/effects';
import type { Job } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';
import { formatPercent } from '../units/figures';
import { jobProgress } from '../job/work';
import { workOf } from './scheduler';

const schema = z.object({ array: z.string(), job: z.string().describe('Id of the job') });
type Params = z.output<typeof schema>;

/** What is stopped, where that harms nothing: what is done stays done. */
const stoppable = (job: Job): string | undefined => workOf(job).words.stop;

function subjectName(view: EstateView, job: Job): string {
  const name = (kind: 'raidGroup' | 'pool' | 'volume', id: string | null) =>
    id ? view.table(kind).get(id)?.name : undefined;
  return name('volume', job.volume) ?? name('raidGroup', job.raidGroup) ?? name('pool', job.pool) ?? 'a drive';
}

export const jobCancel: OperationType<Params> = {
  kind: 'job.cancel',
  verb: 'Stop a job',
  summary: 'Stops a background job. What it has moved stays where it is.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      job: pick('Job'),
    },
  },
  title: (p) => `Stop a job on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const job = view.table('job').get(p.job);
    if (array && (!job || job.array !== array.id || !stoppable(job)))
      asks.refuse({
        code: job ? 'job-must-run' : 'job-unknown',
        field: 'job',
        subject: { kind: 'job', name: p.job },
        message: job ? 'This job makes data safe; it cannot be stopped.' : `${array.name} has no job ${p.job}.`,
        mend: job ? 'Lower its priority instead.' : 'It may have ended by itself.',
      });
    if (asks.refusals.length > 0 || !array || !job) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Stop ${stoppable(job)} ${subjectName(view, job)}`,
      takes: SECOND,
      effects: [deleted('job', job), ...(workOf(job).stopped?.(view, job) ?? [])],
    });
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, job: {} };
    if (!array) return { fields };
    const jobs = view.table('job').by('array', array.id);
    fields.job!.choices = jobs.map((job) => ({
      value: job.id,
      label: `${subjectName(view, job)}: ${stoppable(job) ?? job.kind.replace('-', ' ')}`,
      ...(stoppable(job) ? {} : { unfit: 'makes data safe' }),
    }));
    const job = view.table('job').get(draftText(draft, 'job'));
    fields.job!.says = job
      ? `${formatPercent(jobProgress(job, context.now), 'down')} done; that stays.`
      : `${jobs.length} at work.`;
    return { fields };
  },
};
