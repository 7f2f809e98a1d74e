import { HOUR } from '../units/duration';
import { catchUp, type CatchUpPolicy } from './catch-up';

const at = (text: string) => Date.parse(`2031-05-${text}:00Z`);
const due = [at('02T20:00'), at('02T23:00'), at('03T02:00'), at('03T05:00')];
const after = (policy: CatchUpPolicy) =>
  catchUp({ due, downFrom: at('02T22:00'), upAt: at('03T05:00'), policy, grace: 4 * HOUR });

test.each(['latest', 'all'] as const)(
  '%s runs the young one; what ran before and what is due now is not late',
  (policy) => {
    expect(after(policy)).toMatchObject({
      value: { run: [{ scheduledFor: at('03T02:00'), at: at('03T05:00') }], missed: [at('02T23:00')] },
    });
  },
);

test('skip runs none; a policy that is none is refused', () => {
  expect(after('skip')).toMatchObject({ value: { run: [], missed: [at('02T23:00'), at('03T02:00')] } });
  expect(after('sometimes' as CatchUpPolicy)).toMatchObject({ ok: false, reason: 'schedule-catchup-policy' });
});
