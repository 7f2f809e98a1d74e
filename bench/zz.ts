import { openTrabes } from '@/server/instance';
import { rmSync } from 'node:fs';
import { DAY } from '@/core/units/duration';
for (const f of ['/tmp/zzd.db','/tmp/zzd.db-wal','/tmp/zzd.db-shm','/tmp/zzd.key']) rmSync(f,{force:true});
let t=performance.now();
const trabes = openTrabes('/tmp/zzd.db', 'demo');
console.log('put up', Math.round(performance.now()-t));
for(let k=0;k<Number(process.argv[2]??2);k++){ t=performance.now(); const v=trabes.plant.version; trabes.clock.advance(DAY); console.log('day', Math.round(performance.now()-t), 'commits', trabes.plant.version-v);}
trabes.plant.close();
