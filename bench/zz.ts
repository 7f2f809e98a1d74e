import { protectedLab } from './protected-lab';
const days = Number(process.argv[2] ?? 2);
const r = protectedLab(days);
console.log(JSON.stringify(r), Math.round(process.memoryUsage().rss/1e6));
