import { someOf } from '../units/counted';
import { offer, type Check } from './finding';

export const changeChecks: readonly Check[] = [
  {
    id: 'change-stuck',
    severity: 'error',
    title: 'Changes that need hands',
    *find(_view, { stuck }) {
      for (const { id, title, needsUndo } of stuck)
        yield {
          subject: { kind: 'change', id, name: title },
          says: `${title} needs hands: not taken back are ${someOf(needsUndo) || 'its steps'}.`,
          advice: 'Clear what stands in the way, then undo the rest.',
          mend: offer('Open it', 'change', { id }),
        };
    },
  },
];
