import { Book } from './book';
import { SLOTS_AN_HOUR } from './choices';
import { Course } from './course';
import { madeUp, timedBy } from './models.fixture';
import { mergedRows, type LoadRow } from './row';
import type { LoadModel } from './shape';

/** What comes of two hours: in one go, or slot by slot, each of them added up anew. */
function rows(made: LoadModel, piece: number): Map<string, LoadRow> {
  const book = new Book(0, SLOTS_AN_HOUR, 2).by(made);
  const course = new Course(made, 0);
  for (let at = piece; at <= 2 * SLOTS_AN_HOUR; at += piece) course.run(at, book);
  return new Map([...book.all()].map(({ subject, parts }) => [subject, mergedRows(parts)]));
}

test.each([0.5, 1, 2, 4, 16])('what asks as before need not be looked at, with %d times the room', (room) => {
  for (let seed = 0; seed < 6; seed++) {
    const model = madeUp(`calm ${room} ${seed}`, room);
    const made = seed % 2 === 0 ? model : { ...model, timed: timedBy(`${seed}`, model) };
    const [whole, slots] = [rows(made, 2 * SLOTS_AN_HOUR), rows(made, 1)];
    expect([...whole.keys()].sort()).toEqual([...slots.keys()].sort());
    for (const [subject, row] of whole) {
      const other = slots.get(subject)!;
      for (const field of ['asked', 'served', 'refused', 'bytes', 'used', 'mostIops', 'mostQueue', 'mostRho'] as const)
        expect(Math.abs(row[field] - other[field])).toBeLessThanOrEqual(1e-6 * (1 + Math.abs(other[field])));
      // Waits are looked at anew where they move by more than half a hundredth.
      for (const field of ['latency', 'mostLatency'] as const)
        expect(Math.abs(row[field] - other[field])).toBeLessThanOrEqual(0.006 * other[field]);
    }
  }
});
