import { contextFor, planUnit } from '@/core/change/plan';
import { readOperation, type OperationDocument } from '@/core/change/registry';
import type { ImportReport } from '@/core/change/record';
import { Overlay, type EstateView } from '@/core/estate/estate';
import { readHostsCsv } from '@/formats/hosts-csv';
import { inOrder, operationFor, readZoning } from '@/formats/zoning-file';
import type { Trabes } from './instance';
import { Problem } from './problem';

/** A line of a list: what it wants done on the estate as the lines before it leave it, why it cannot be read, or that nothing is to be done. */
interface ListLine {
  line: number;
  name: string;
  wants: (view: EstateView) => OperationDocument | null;
  problems: readonly { message: string; mend: string }[];
}

/** Turns a list into a change: each line is planned on top of those before it, and taken or refused with the reason. */
function importLines(
  { plant, changes }: Trabes,
  list: readonly ListLine[],
  title: (count: number) => string,
  origin: string,
  ignored: string[] = [],
): ImportReport {
  const overlay = new Overlay(plant.estate);
  const operations: OperationDocument[] = [];
  const lines = list.map(({ line, name, wants, problems }) => {
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
  });
  return {
    lines: lines.sort((a, b) => a.line - b.line),
    taken: lines.filter((line) => line.taken).length,
    refused: lines.filter((line) => !line.taken).length,
    ignored,
    change: operations.length > 0 ? changes.prepare(title(operations.length), operations, origin) : null,
  };
}

export function importHosts(instance: Trabes, text: string): ImportReport {
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
    read.ignored,
  );
}

/** Aliases and zones from CSV or JSON: new ones are made, others changed, and what is so already is left alone. */
export function importZoning(instance: Trabes, text: string): ImportReport {
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
  );
}
