import { Estate } from '@/core/estate/estate';
import { attachedEstate } from './attached-estate';
import { attachChecks } from '@/core/check/attach';
import { checkContext } from '@/core/check/engine';
import { LAB_START } from '../demo/hardware';
import { attachingTasks } from './attaching';
const effects = attachedEstate({ arrays: 40, portsPerArray: 64, hosts: 5000, volumes: 100000, seed: 'bench' });
const estate = new Estate();
estate.apply(effects);
const context = checkContext(estate, LAB_START);
for (const check of attachChecks) {
  const t = performance.now();
  let n = 0;
  for (const found of check.find(estate, context)) n += found ? 1 : 0;
  const took = performance.now() - t;
  if (took > 150) console.log(check.id, took.toFixed(0), n);
}
const [, , pairs, , , preview] = attachingTasks(estate);
import { Session } from 'node:inspector/promises';
for (const task of [preview!, pairs!]) {
  const session = new Session();
  session.connect();
  await session.post('Profiler.enable');
  await session.post('Profiler.start');
  for (let k = 0; k < 2; k++) task.work();
  const { profile } = await session.post('Profiler.stop');
  const self = new Map<string, number>();
  const dt = profile.timeDeltas!;
  const byId = new Map(profile.nodes.map((n) => [n.id, n]));
  profile.samples!.forEach((id, k) => {
    const n = byId.get(id)!;
    const key = `${n.callFrame.functionName} ${n.callFrame.url.split('/').slice(-2).join('/')}:${n.callFrame.lineNumber}`;
    self.set(key, (self.get(key) ?? 0) + dt[k]!);
  });
  console.log(
    task.name,
    [...self]
      .sort((a, b) => b[1] - a[1])
      .slice(0, 16)
      .map(([k, v]) => `${(v / 1000).toFixed(0)} ${k}`)
      .join('\n'),
  );
  session.disconnect();
}
