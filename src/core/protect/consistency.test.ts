import { groupCut, quiesce, type QuiesceTimes } from './consistency';

const members = [
  { id: 'cargo-data', holdStartS: 0.2, cutS: 0.9, holdEndS: 1.6 },
  { id: 'cargo-log', holdStartS: 0.5, cutS: 1.1, holdEndS: 1.5 },
];

test('a cut holds while all its members held, and not for too long', () => {
  expect(groupCut({ members, holdMaxS: 2 })).toEqual({
    consistent: true,
    reason: null,
    commonFromS: 0.5,
    commonToS: 1.5,
  });
  expect(groupCut({ members, holdMaxS: 1.2 })).toMatchObject({
    consistent: false,
    reason: 'hold-too-long',
    commonFromS: 0.5,
  });
  // A length that is the limit but for its last bit is within it.
  expect(groupCut({ members, holdMaxS: 1.4 }).reason).toBeNull();
});

test('one that was cut while it did not hold, or that held when the others had let go, spoils it', () => {
  const [data, log] = members as [(typeof members)[0], (typeof members)[0]];
  expect(groupCut({ members: [data, { ...log, cutS: 1.51 }], holdMaxS: 9 }).reason).toBe('cut-outside-hold');
  const late = { id: 'cargo-log', holdStartS: 2, cutS: 2.1, holdEndS: 2.2 };
  expect(groupCut({ members: [data, late], holdMaxS: 9 })).toEqual({
    consistent: false,
    reason: 'no-common-instant',
    commonFromS: null,
    commonToS: null,
  });
});

const times: QuiesceTimes = {
  freezeAckS: 6,
  cutS: 1.5,
  thawAckS: 2,
  freezeTimeoutS: 20,
  holdMaxS: 5,
  thawTimeoutS: 15,
  onTimeout: 'crash',
};

test.each<[string, Partial<QuiesceTimes>, string | null, string | null]>([
  ['all answered', {}, 'application', null],
  ['at the limits', { freezeAckS: 20, cutS: 5, thawAckS: 15 }, 'application', null],
  ['no thaw', { thawAckS: null }, 'crash', 'thaw-unconfirmed'],
  ['a late thaw', { thawAckS: 15.1 }, 'crash', 'thaw-unconfirmed'],
  ['a late freeze', { freezeAckS: 25 }, 'crash', 'freeze-timeout'],
  ['no freeze, and then no copy', { freezeAckS: null, onTimeout: 'fail' }, null, 'freeze-timeout'],
  ['a late freeze and a long hold', { freezeAckS: 25, cutS: 6 }, null, 'hold-exceeded'],
  ['a long hold', { cutS: 6, thawAckS: null }, null, 'hold-exceeded'],
  ['a pause that did not hold', { frozenIntact: false }, 'crash', 'freeze-expired'],
])('%s', (_what, more, label, reason) => {
  expect(quiesce({ ...times, ...more })).toEqual({ label, reason, thawSent: true });
});
