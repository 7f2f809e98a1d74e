import { rememberOwn, seenThrough } from './own-revisions';

test('own revisions in a row are known; somebody else’s stands between, and another draft’s do not count', () => {
  rememberOwn({ id: 'a', revision: 3 });
  rememberOwn({ id: 'a', revision: 4 });
  rememberOwn({ id: 'a', revision: 6 });
  expect([seenThrough('a', 2), seenThrough('a', 1), seenThrough('a', 5), seenThrough('b', 2)]).toEqual([4, 1, 6, 2]);
});
