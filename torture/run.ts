import { parseArgs } from 'node:util';
import { days } from './days';
import { Figures } from './figures';
import { Kills } from './kills';
import { lives } from './lives';

/**
 * Tortures the core in this process and a server in another: `--minutes` in all, `--seed` for the same again. Ends with a table, and with a
 * status that is not 0 where anything was lost.
 */
const { values } = parseArgs({
  options: { minutes: { type: 'string', default: '5' }, seed: { type: 'string', default: String(Date.now()) } },
});
const minutes = Number(values.minutes);
if (!(minutes > 0 && minutes <= 600)) {
  console.error(`--minutes ${values.minutes} is no number from 0 to 600.`);
  process.exit(2);
}
const begun = Date.now();
const end = begun + minutes * 60_000;
const figures = new Figures();
console.log(`${minutes} minutes, seed ${values.seed}`);
await days(figures, values.seed);
lives(figures, values.seed, Date.now() + (end - Date.now()) * 0.3);
await new Kills(figures, values.seed).run(end);
figures.add('minutes', Math.round((Date.now() - begun) / 60_000));
figures.print();
process.exit(figures.failed ? 1 : 0);
