import { Estate } from '@/core/estate/estate';
import { attachedEstate } from './attached-estate';
import { attachingTasks } from './attaching';
const t0 = performance.now();
const effects = attachedEstate({ arrays: 40, portsPerArray: 64, hosts: 5000, volumes: 100000, seed: 'bench' });
const estate = new Estate();
estate.apply(effects);
console.log(
  'made',
  effects.length,
  (performance.now() - t0).toFixed(0),
  'ms',
  (process.memoryUsage().heapUsed / 1e6).toFixed(0),
  'MB',
);
for (const task of attachingTasks(estate)) {
  const times: number[] = [];
  for (let k = 0; k < 3; k++) {
    const t = performance.now();
    task.work();
    times.push(performance.now() - t);
  }
  console.log(task.name, times.map((x) => x.toFixed(1)).join(' '), task.target ?? '');
}
