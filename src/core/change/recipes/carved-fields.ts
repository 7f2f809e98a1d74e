import type { EstateView } from '../../estate/estate';
import { activityKinds } from '../../kinds/activity';
import { namedChoices, orNone } from '../../operation/draft';
import type { Foretold } from '../../operation/operation';
import { activityLabels } from '../../volume/activity-labels';

/** Words and choices of what recipes ask of volumes that they carve. */
export const carvedFields = (view: EstateView) =>
  ({
    provisioning: {
      suggested: 'thin',
      choices: [
        { value: 'thin', label: 'Thin' },
        { value: 'thick', label: 'Thick' },
      ],
    },
    workload: { choices: orNone(namedChoices(view, 'workload')) },
    activity: {
      choices: [
        { value: '', label: 'Nobody knows' },
        ...activityKinds.map((value) => ({ value, label: activityLabels[value] })),
      ],
      says: 'What its copies will keep is worked out from it.',
    },
    plan: {
      choices: [{ value: '', label: 'As its workload' }, ...namedChoices(view, 'plan')],
      says: 'Who makes copies of it.',
    },
  }) satisfies Foretold['fields'];
