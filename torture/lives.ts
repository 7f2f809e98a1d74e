import { Overlay } from '@/core/estate/estate';
import { brokenRules } from '@/core/rules/book';
import { LAB_START } from '../demo/hardware';
import { demoEstate } from '../demo/scenario';
import type { Figures } from './figures';
import { Story } from './story';

const STEPS = 150;

/** Lives of the demo estate one after the other, in this process, until the time is over. */
export function lives(figures: Figures, seed: string, until: number): void {
  const { estate } = demoEstate();
  const kinds = new Set<string>();
  for (let life = 0; Date.now() < until; life++) {
    const story = new Story(new Overlay(estate), `${seed} ${life}`, LAB_START);
    try {
      for (let k = 0; k < STEPS && Date.now() < until; k++) story.step();
    } catch (error) {
      figures.fault('something was thrown in a life', `${seed} ${life}: ${(error as Error).stack}`);
    }
    figures.add('lives');
    for (const [name, count] of Object.entries(story.tally)) figures.add(`in lives, ${name}`, count as number);
    for (const kind of story.done) kinds.add(kind);
    for (const { at, what, found } of story.wrongs)
      figures.fault('a rule was broken in a life', `${seed} ${life} at ${at}: ${what}: ${found.join('; ')}`);
    for (const broken of brokenRules(story.estate))
      figures.fault('a rule is broken at the end of a life', `${seed} ${life}: ${broken.message}`);
  }
  figures.add('kinds of operations carried out in lives', kinds.size);
}
