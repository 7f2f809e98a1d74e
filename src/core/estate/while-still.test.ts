import { bareEstate, named } from '../../../demo/workbench';
import { changed } from './effects';
import { Overlay, type EstateView } from './estate';
import { whileStill } from './while-still';

const { id: array } = named(bareEstate(), 'array', 'lintel-1');
const { id: site } = named(bareEstate(), 'site', 'Nordkai');
const renamed = (view: EstateView, kind: 'array' | 'site', to: string) =>
  changed(kind, view.table(kind).get(kind === 'array' ? array : site)! as never, { name: to });

test('it is worked out anew when a row moves, and shared by overlays in which none did', () => {
  let worked = 0;
  const names = whileStill((view) => {
    worked += 1;
    return view.table('array').get(array)!.name;
  });
  const estate = bareEstate();
  const first = names(estate);
  expect([names(estate), names(new Overlay(estate)), names(new Overlay(new Overlay(estate)))]).toEqual([
    first,
    first,
    first,
  ]);
  expect(worked).toBe(1);
  const overlay = new Overlay(estate);
  overlay.apply([renamed(estate, 'array', 'aaa')]);
  expect([names(overlay), names(estate)]).toEqual(['aaa', first]);
  expect(worked).toBe(2);
  overlay.apply([renamed(overlay, 'site', 'elsewhere')]);
  expect(names(overlay)).toBe('aaa');
  expect(worked).toBe(3);
});

test('rows of other kinds than it rests on leave it as it is, but for what is said of them', () => {
  let worked = 0;
  const count = whileStill((view) => ++worked && view.table('array').size, {
    of: ['array'],
    and: (view) => (view.table('site').get(site)!.name.startsWith('b') ? 'b' : ''),
  });
  const estate = bareEstate();
  count(estate);
  const overlay = new Overlay(estate);
  overlay.apply([renamed(estate, 'site', 'abroad')]);
  count(overlay);
  expect(worked).toBe(1);
  overlay.apply([renamed(overlay, 'site', 'beside')]);
  count(overlay);
  expect(worked).toBe(2);
});
