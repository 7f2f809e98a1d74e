import { Figures } from './figures';
import { lives } from './lives';
import { Kills } from './kills';
const figures = new Figures();
lives(figures, process.argv[2]!, Date.now() + Number(process.argv[3]) * 60_000);
await new Kills(figures, process.argv[2]!).run(Date.now() + Number(process.argv[4] ?? 0) * 60_000);
figures.print();
process.exit(figures.failed ? 1 : 0);
