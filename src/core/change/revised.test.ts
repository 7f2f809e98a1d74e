import { revisedWords } from './revised';

const volume = { do: 'volume.create', name: 'late', size: '1 GiB' };
const rescan = { do: 'host.rescan', host: 'gate-1' };
const words = (before: object[], after: object[] | null, title = 'Ours') =>
  revisedWords({ title: 'Ours', operations: before as never }, { title, operations: after as never });

test('what a revision did to a draft is said in sentences, without its values', () => {
  expect(words([volume], null, 'Theirs')).toBe('It is called "Theirs" now.');
  expect(words([volume, rescan], [volume])).toBe('Operation 2 (rescan a host) was taken out.');
  expect(words([volume], [rescan, volume])).toBe('Operation 1 (rescan a host) was added.');
  expect(words([volume], [{ ...volume, size: '2 GiB', notes: 'x' }])).toBe(
    'Operation 1 (carve volumes) has another size, notes.',
  );
  expect(words([volume, rescan], [rescan, volume])).toBe('Its operations stand in another order.');
  expect(words([volume], [volume])).toBe('Nothing in it is different.');
  expect(words([volume], [{ ...volume, chapSecret: 'tide tables' }])).not.toContain('tide');
});
