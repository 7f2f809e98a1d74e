import { contextFor, MOST_OPERATIONS, planUnit } from '@/core/change/plan';
import type { InParts } from '@/core/units/in-parts';
import { readOperation, type OperationDocument } from '@/core/change/registry';
import type { ImportReport } from '@/core/change/record';
import { Overlay, type EstateView } from '@/core/estate/estate';
import { lookUp } from '@/core/operation/inquiry';
import { readHostsCsv } from '@/formats/hosts-csv';
import { readCalendar } from '@/formats/icalendar';
import { isNamedWeek, type WeekShape } from '@/core/kinds/activity';
import { activityOf, readTrace, type TracedActivity, type TraceProblem } from '@/formats/io-trace';
import { holdsRates, readRates } from '@/formats/load-rates';
import { inOrder, operationFor, readZoning } from '@/formats/zoning-file';
import type { Trabes } from './instance';
import { Problem } from './problem';
import { ofOneMoment, type Watching } from './slices';

/** A line of a list: what it wants done on the estate as the lines before it leave it, why it cannot be read, or that nothing is to be done. */
interface ListLine {
  line: number;
  name: string;
  wants: (view: EstateView) => OperationDocument | null;
  problems: readonly { message: string; mend: string }[];
}

/** Turns a list into a change: each line is planned on top of those before it, and taken or refused with the reason. */
async function importLines(
  { plant, changes }: Trabes,
  list: readonly ListLine[],
  title: (count: number) => string,
  origin: string,
  watching: Watching,
  ignored: string[] = [],
): Promise<ImportReport> {
  if (list.length > MOST_OPERATIONS)
    throw new Problem(
      422,
      'list-too-long',
      `The list has ${list.length} lines; ${MOST_OPERATIONS} are the most.`,
      'Import it in several parts.',
    );
  const { lines, operations } = await ofOneMoment(plant, () => planningLines(plant, list), watching);
  return {
    lines: lines.sort((a, b) => a.line - b.line),
    taken: lines.filter((line) => line.taken).length,
    refused: lines.filter((line) => !line.taken).length,
    ignored,
    change:
      operations.length > 0 ? await changes.prepare(title(operations.length), operations, origin, watching) : null,
  };
}

/** Each line planned on the estate as those before it leave it. */
function* planningLines(
  plant: Trabes['plant'],
  list: readonly ListLine[],
): InParts<{ lines: ImportReport['lines']; operations: OperationDocument[] }> {
  const overlay = new Overlay(plant.estate);
  const operations: OperationDocument[] = [];
  const planLine = ({ line, name, wants, problems }: ListLine) => {
    const outcome = (taken: boolean, said: string, notes: string[] = []) => ({ line, name, taken, said, notes });
    const refuse = (found: readonly { message: string; mend: string }[]) =>
      outcome(false, found.map((one) => `${one.message} ${one.mend}`).join(' '));
    if (problems.length > 0) return refuse(problems);
    const operation = wants(overlay);
    if (!operation) return outcome(true, 'It is there as it stands');
    const checked = readOperation(operation);
    if (!checked.ok) return refuse(checked.refusals);
    const planned = planUnit(overlay, checked.type, checked.params, contextFor(plant.basis('import'), line, 0));
    if (!planned.ok) return refuse(planned.refusals);
    overlay.apply(planned.step.effects);
    operations.push(operation);
    return outcome(true, planned.step.title, planned.step.notes);
  };
  const lines: ImportReport['lines'] = [];
  for (const line of list) {
    lines.push(planLine(line));
    yield { done: lines.length, of: list.length };
  }
  return { lines, operations };
}

export async function importHosts(instance: Trabes, text: string, watching: Watching = {}): Promise<ImportReport> {
  const read = readHostsCsv(text);
  if (!read.ok) throw new Problem(422, 'not-a-host-list', read.message, read.mend);
  return importLines(
    instance,
    read.lines.map(({ line, name, operation, problems }) => ({
      line,
      name,
      wants: () => operation ?? null,
      problems,
    })),
    (count) => `Register ${count} ${count === 1 ? 'host' : 'hosts'} from a list`,
    'host list',
    watching,
    read.ignored,
  );
}

/** Aliases and zones from CSV or JSON: new ones are made, others changed, and what is so already is left alone. */
export async function importZoning(instance: Trabes, text: string, watching: Watching = {}): Promise<ImportReport> {
  const read = readZoning(text);
  if (!read.ok) throw new Problem(422, 'not-a-zoning-list', read.message, read.mend);
  return importLines(
    instance,
    inOrder(read.lines).map(({ line, name, entry, problem }) => ({
      line,
      name,
      wants: (view) => entry && operationFor(view, entry),
      problems: problem ? [problem] : [],
    })),
    (count) => `${count} ${count === 1 ? 'alias or zone' : 'aliases and zones'} from a list`,
    'zoning list',
    watching,
  );
}

/** Schedules of a calendar: an event `Plan: schedule` joins the plan of that name, which is made where there is none. */
export async function importCalendar(instance: Trabes, text: string, watching: Watching = {}): Promise<ImportReport> {
  const read = readCalendar(text);
  if (!read.ok)
    throw new Problem(422, read.reason, read.message, 'Export a calendar whose events recur, and try once more.');
  return importLines(
    instance,
    read.value.map(({ summary, recurrence }, k): ListLine => {
      const colon = summary.indexOf(': ');
      const plan = colon < 0 ? summary : summary.slice(0, colon);
      const schedule = colon < 0 ? '' : summary.slice(colon + 2);
      const { rrule, dtstart, tz, exdates = [] } = recurrence;
      const said = { every: rrule, start: dtstart };
      return {
        line: k + 1,
        name: summary,
        wants(view) {
          const known = lookUp(view, 'plan', plan);
          const name = known && known.zone !== tz ? `${plan}, ${tz}` : plan;
          const there = lookUp(view, 'plan', name);
          if (there?.schedules.some((one) => one.name === schedule && one.rule === rrule && one.start === dtstart))
            return null;
          return there
            ? { do: 'plan.schedule', plan: name, schedule: schedule || rrule.slice(0, 60), ...said }
            : { do: 'plan.create', name, zone: tz, ...(schedule ? { schedule } : {}), ...said };
        },
        problems:
          exdates.length > 0
            ? [
                {
                  message: `${summary} leaves ${exdates.length} days out, which a plan does not.`,
                  mend: 'Take them out of the calendar.',
                },
              ]
            : [],
      };
    }),
    (count) => `${count} ${count === 1 ? 'schedule' : 'schedules'} from a calendar`,
    'calendar',
    watching,
  );
}

/** Lines of a trace that are told one by one; of more only how many. */
const TOLD_LINES = 200;

type Seen = Pick<TracedActivity, 'line' | 'volume' | 'reads' | 'writes' | 'ioBytes' | 'burst'> & {
  sequential?: boolean;
  week?: WeekShape | null;
};

/** What single I/Os or measured rates say of volumes, and what could not be read. */
function seenIn(text: string): { seen: Seen[]; problems: TraceProblem[] } {
  const rates = holdsRates(text);
  const read = rates ? readRates(text) : readTrace(text);
  if (!read.ok) throw new Problem(422, 'trace-row', read.message, read.mend);
  return { seen: 'activities' in read ? read.activities : activityOf(read.rows), problems: read.problems };
}

/**
 * A trace of block I/O, or measured rates: what it says of each volume becomes its activity; lines that cannot be read are told.
 */
export async function importTrace(instance: Trabes, text: string, watching: Watching = {}): Promise<ImportReport> {
  const read = seenIn(text);
  const { estate } = instance.plant;
  const volumeOf = (called: string) => {
    const [array, name] = called.includes('/') ? (called.split('/', 2) as [string, string]) : [null, called];
    const found = [...estate.table('volume').values()].filter(
      (one) =>
        one.name.toLowerCase() === name.toLowerCase() &&
        (array === null || estate.table('array').get(one.array)!.name.toLowerCase() === array.toLowerCase()),
    );
    return found.length === 1 ? found[0]! : found.length;
  };
  return importLines(
    instance,
    [
      ...read.problems.slice(0, TOLD_LINES).map(({ line, message, mend }) => ({
        line,
        name: '',
        wants: () => null,
        problems: [{ message, mend }],
      })),
      ...read.seen.map(({ line, volume: called, reads, writes, ioBytes, sequential, burst, week }) => {
        const volume = volumeOf(called);
        const rounded = (value: number) => Number(value.toPrecision(4));
        return {
          line,
          name: called,
          wants: () =>
            typeof volume === 'number'
              ? null
              : {
                  do: 'volume.activity',
                  array: estate.table('array').get(volume.array)!.name,
                  volumes: [volume.name],
                  ...(volume.activity ? {} : { kind: 'database' }),
                  reads: rounded(reads),
                  writes: rounded(writes),
                  ioSize: `${ioBytes} B`,
                  ...(sequential === undefined ? {} : { pattern: sequential ? 'sequential' : 'random' }),
                  ...(week ? { [isNamedWeek(week) ? 'week' : 'hours']: week } : {}),
                  burst: rounded(burst),
                },
          problems:
            typeof volume === 'number'
              ? [
                  {
                    message: volume === 0 ? `There is no volume ${called}.` : `${volume} volumes are called ${called}.`,
                    mend: 'Name it as array/volume; in the text of a block layer by a line `# volume array/volume`.',
                  },
                ]
              : [],
        };
      }),
    ],
    (count) => `What a trace says of ${count} ${count === 1 ? 'volume' : 'volumes'}`,
    'trace',
    watching,
    read.problems.length > TOLD_LINES ? [`${read.problems.length - TOLD_LINES} more lines that cannot be read`] : [],
  );
}
