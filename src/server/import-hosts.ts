import { contextFor, planUnit } from '@/core/change/plan';
import { readOperation, type OperationDocument } from '@/core/change/registry';
import { Overlay } from '@/core/estate/estate';
import { readHostsCsv } from '@/formats/hosts-csv';
import type { ImportReport } from '@/core/change/record';
import type { Trabes } from './instance';
import { Problem } from './problem';

/** Turns a list of hosts into a change: each line is planned on top of those before it, and taken or refused with the reason. */
export function importHosts({ plant, changes }: Trabes, text: string): ImportReport {
  const read = readHostsCsv(text);
  if (!read.ok) throw new Problem(422, 'not-a-host-list', read.message, read.mend);
  const overlay = new Overlay(plant.estate);
  const operations: OperationDocument[] = [];
  const lines = read.lines.map(({ line, name, operation, problems }) => {
    const refuse = (found: readonly { message: string; mend: string }[]) => ({
      line,
      name,
      taken: false,
      said: found.map((one) => `${one.message} ${one.mend}`).join(' '),
      notes: [],
    });
    if (!operation) return refuse(problems);
    const checked = readOperation(operation);
    if (!checked.ok) return refuse(checked.refusals);
    const planned = planUnit(overlay, checked.type, checked.params, contextFor(plant.basis('import'), line, 0));
    if (!planned.ok) return refuse(planned.refusals);
    overlay.apply(planned.step.effects);
    operations.push(operation);
    return { line, name, taken: true, said: planned.step.title, notes: planned.step.notes };
  });
  const title = `Register ${operations.length} ${operations.length === 1 ? 'host' : 'hosts'} from a list`;
  return {
    lines,
    taken: operations.length,
    refused: lines.length - operations.length,
    ignored: read.ignored,
    change: operations.length > 0 ? changes.prepare(title, operations, 'host list') : null,
  };
}
