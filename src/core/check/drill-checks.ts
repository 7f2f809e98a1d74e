import { lastDrill } from '../replicate/drill-view';
import { dateText } from '../units/date';
import { DAY, formatDuration } from '../units/duration';
import { offer, type Check } from './finding';
import { replicationCheck } from './replicate-checks';

const UNREHEARSED = 90 * DAY;

export const drillChecks: Check[] = [
  replicationCheck('replication-no-drill', 'warning', 'Recoveries that nobody rehearsed', (view, row, { now }) => {
    const since = lastDrill(view, row.id)?.startedAt ?? row.startedAt;
    if (!row.image || now - since <= UNREHEARSED) return null;
    return {
      says: `The recovery of ${row.name} is unrehearsed since ${dateText(since)}.`,
      advice: 'Rehearse it: copying goes on meanwhile.',
      mend: offer('Rehearse it', 'drill.start', { replications: [row.name] }, 'host'),
    };
  }),
  replicationCheck('rto-over-goal', 'warning', 'Recoveries that take longer than promised', (view, row) => {
    const last = lastDrill(view, row.id);
    if (!last || row.goal === null || last.total <= row.goal) return null;
    return {
      says: `${row.name} was back after ${formatDuration(last.total)} in ${last.name}; ${formatDuration(row.goal)} are promised.`,
      advice: 'Do more at once, or bring it back in an earlier turn; then rehearse it again.',
      mend: offer('Change its turn or its promise', 'replication.configure', { replication: row.name }, 'goal'),
    };
  }),
];
