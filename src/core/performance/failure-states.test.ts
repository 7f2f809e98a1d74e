import { estateAfter, mounted, named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { HOUR } from '../units/duration';
import { whole } from '../units/in-parts';
import { copying } from '../../../demo/replicated';
import { everyFailureState, failureStates, linkFailureStates } from './failure-states';
import { carriedWeeks, roomOf } from './room';

const busy = { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], kind: 'database', week: 'even' };
const at = () => estateAfter([...mounted, busy]);

test('a port that is lost leaves its work to the others of the array', () => {
  const estate = at();
  const { id } = named(estate, 'array', 'lintel-1');
  const states = whole(everyFailureState(estate, id));
  expect(states.map(({ name }) => name)).toEqual(
    expect.arrayContaining(failureStates(estate, id).map(({ name }) => name)),
  );
  const serving = states.filter(({ name }) => /^port .* lost$/.test(name));
  expect(serving.length).toBeGreaterThan(1);
  const ports = roomOf(states).filter(({ kind, array, rho }) => kind === 'port' && array === id && rho > 0);
  expect(ports.length).toBeGreaterThan(1);
  // With the narrow states alone, nothing is known of it.
  const narrow = new Map(roomOf(failureStates(estate, id)).map((one) => [one.id, one]));
  expect(ports.some((port) => port.worst > narrow.get(port.id)!.worst)).toBe(true);
  // What is down already cannot be lost.
  const [first] = estate
    .table('port')
    .by('array', id)
    .filter(({ role }) => role !== 'none');
  estate.apply([changed('port', first!, { state: 'down' })]);
  expect(whole(everyFailureState(estate, id)).some(({ name }) => name === `port ${first!.name} lost`)).toBe(false);
});

test('of links each state has one out; what replications send counts on the mean of the hour', () => {
  const of = copying();
  of.pass(HOUR);
  const line = named(of.estate, 'siteLink', 'dark fibre');
  const carried = carriedWeeks(of.estate);
  expect(Math.max(...carried.get(line.id)!)).toBeGreaterThan(0);
  const states = whole(linkFailureStates(of.estate));
  const rooms = roomOf(states, carried);
  const [with_, without] = [rooms, roomOf(states)].map((all) => all.find(({ id }) => id === line.id)!);
  expect(without!.rho).toBe(0);
  expect(with_!.rho).toBeCloseTo(Math.max(...carried.get(line.id)!) / 1_175_000_000, 9);
  of.run({ do: 'replication.pause', replication: 'Ticketing' });
  expect(carriedWeeks(of.estate).size).toBe(0);
});
