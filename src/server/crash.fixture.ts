import type { OperationDocument } from '@/core/change/registry';
import { openTrabes } from './instance';

/** A process of its own that begins a long change and is killed in the middle: it tells each step on standard output. */
const [file = '', steps = '20'] = process.argv.slice(2);
const trabes = openTrabes(file, 'demo');
const operations: OperationDocument[] = [
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'crash',
    size: '10 GiB',
    count: Number(steps),
    provisioning: 'thick',
  },
];
const change = await trabes.changes.prepare('A long change', operations, 'test');
await trabes.changes.run(change.id);
trabes.plant.events.listen((event) => {
  if (event.type === 'change') process.stdout.write(`${event.id} ${event.done}\n`);
});
process.stdout.write(`${change.id} 0\n`);
setInterval(() => trabes.clock.advance(1000), 1);
