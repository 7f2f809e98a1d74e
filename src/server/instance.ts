import type { OperationDocument } from '@/core/change/registry';
import { compacted } from '@/core/estate/effects';
import { Estate } from '@/core/estate/estate';
import { DAY, HOUR, MINUTE } from '@/core/units/duration';
import { bareHardware, LAB_START } from '../../demo/hardware';
import { agedDrives, demoEstate, HISTORY_DAYS, planOn, recent, RECENT_HOURS } from '../../demo/scenario';
import { ratesOf, rhythm } from '../../demo/traffic';
import { preparedChange, secondChange } from '../../demo/waiting';
import {
  brokenAgents,
  byHand,
  closely,
  CLOSELY_DAYS,
  earlyFiles,
  filesOf,
  lateFiles,
  LOST_HOURS,
  lostFiles,
  proofs,
  PROTECTED_DAYS,
  PROVEN_DAYS,
  protection,
} from '../../demo/protection';
import { classes } from '../../demo/classes';
import { load, WATCHED_DAYS } from '../../demo/load';
import { machines } from '../../demo/machines';
import { CUT_HOURS, filled, firstCut, shelved, shelvedGib, waves } from '../../demo/moves';
import { corbelBefore, corbelFound, corbelLeft, corbelRows, madeOutside, onCorbel } from '../../demo/outside';
import { asked, tonight } from '../../demo/night';
import {
  archiveAfar,
  archivePartners,
  bunker,
  ELSEWHERE_HOURS,
  lines,
  partners,
  rehearsal,
  REHEARSED_MINUTES,
  replications,
  secondSite,
  SHIPPED_DAYS,
  stretchedDeck,
  witness,
  yard,
} from '../../demo/elsewhere';
import { Changes } from './changes';
import { Drawing } from './drawing';
import { Clock } from './clock';
import { Plant } from './plant';
import { Runner } from './runner';
import { addressOf, readSettings } from './settings';
import { CannotOpen } from '@/store/cannot-open';
import { cannotOpen } from '@/store/database';

/** All that lives in a server: the estate, its clock, the runner, the changes. */
export interface Trabes {
  plant: Plant;
  runner: Runner;
  clock: Clock;
  changes: Changes;
  drawing: Drawing;
}

/**
 * Opens a database and brings it to life; a new one is filled as asked, wholly or not at all, with the demo from where it was prepared if it was.
 * @throws CannotOpen where it cannot be used, in words.
 */
export function openTrabes(
  databaseFile: string,
  fill: 'demo' | 'empty',
  options: { fresh?: boolean; newKey?: boolean; prepared?: string | null } = {},
): Trabes {
  const plant = new Plant(databaseFile, options);
  const isNew = plant.store.lab() === undefined;
  const runner = new Runner(plant);
  const changes = new Changes(plant, runner);
  const trabes = { plant, runner, clock: new Clock(plant, runner, changes), changes, drawing: new Drawing(plant) };
  try {
    if (isNew && fill === 'demo' && options.prepared) plant.takeOver(options.prepared);
    else if (isNew)
      plant.asOne(() => {
        plant.commit({ lab: { now: LAB_START, speed: 60 } });
        if (fill === 'demo') putUp(trabes, 'demo');
      });
    plant.vault.forgetUnused();
  } catch (error) {
    plant.close();
    throw CannotOpen.is(error) ? error : cannotOpen(databaseFile, error);
  }
  return trabes;
}

/** Puts up the demo, or its bare machines only, in an instance that holds nothing. */
export function putUp({ plant, changes, clock }: Trabes, what: 'demo' | 'bare'): void {
  if (what === 'bare') {
    const effects = bareHardware();
    const estate = new Estate();
    estate.apply(effects);
    return plant.replaceEstate(estate, effects, 'Bare machines put up');
  }
  const { estate, effects } = demoEstate();
  plant.replaceEstate(estate, effects, 'Demo estate put up');
  // The weeks that lie behind the demo pass through the same clock as all time: jobs end and hosts write.
  plant.telemetry.off = true;
  const morning = plant.lab.now;
  plant.commit({ lab: { ...plant.lab, now: morning - HISTORY_DAYS * DAY } });
  const first = Math.floor(plant.lab.now / DAY);
  const carryOut = (operations: readonly OperationDocument[], seed: string) =>
    plant.commit({ effects: compacted(planOn(plant.estate, operations, seed, plant.lab.now)) });
  const putFiles = (files: Parameters<typeof filesOf>[1]) => {
    for (const file of files) plant.commit({ effects: compacted(filesOf(plant.estate, [file], plant.lab.now).flat()) });
  };
  for (let day = 0; day < HISTORY_DAYS; day++) {
    plant.commit({ effects: ratesOf(plant.estate, rhythm(first + day)) });
    const left = HISTORY_DAYS - day;
    if (left === PROTECTED_DAYS) {
      putFiles(earlyFiles);
      carryOut(protection, 'protection');
      carryOut(byHand, 'by hand');
    }
    if (left === SHIPPED_DAYS) carryOut([...lines, ...bunker, ...archivePartners, ...archiveAfar], 'archive afar');
    if (left === WATCHED_DAYS) {
      carryOut(load, 'load');
      carryOut(classes, 'classes');
      carryOut(machines, 'machines');
      carryOut(shelved, 'shelved');
      plant.commit({ effects: filled(plant.estate, shelvedGib, plant.lab.now) });
      plant.commit({ effects: corbelRows() });
      carryOut(corbelBefore, 'corbel before');
      plant.commit({ effects: filled(plant.estate, onCorbel, plant.lab.now) });
      carryOut(corbelLeft, 'corbel left');
      plant.commit({ effects: madeOutside(plant.estate) });
      plant.telemetry.off = false;
      plant.telemetry.reset();
    }
    if (left === PROVEN_DAYS) carryOut(proofs(plant.estate), 'proofs');
    if (left === CLOSELY_DAYS) carryOut(closely, 'closely');
    if (left === 1) {
      putFiles(lateFiles);
      plant.commit({ effects: brokenAgents(plant.estate) });
    }
    clock.advance(left === 1 ? DAY - RECENT_HOURS * HOUR : DAY);
  }
  plant.commit({ effects: [...ratesOf(plant.estate), ...agedDrives(plant.estate, plant.lab.now)] });
  plant.commit({ effects: planOn(plant.estate, recent, 'recent', plant.lab.now) });
  carryOut(waves, 'waves');
  clock.advance((RECENT_HOURS - LOST_HOURS) * HOUR);
  putFiles(lostFiles);
  clock.advance((LOST_HOURS - ELSEWHERE_HOURS) * HOUR);
  carryOut([...partners, yard, witness], 'partners');
  carryOut(replications, 'replications');
  carryOut(stretchedDeck, 'stretched');
  clock.advance((ELSEWHERE_HOURS - CUT_HOURS) * HOUR);
  carryOut(firstCut, 'first cut');
  changes.night.approveNow(changes.prepareNow(asked.title, asked.operations, 'demo'), asked.terms);
  clock.advance(CUT_HOURS * HOUR - REHEARSED_MINUTES * MINUTE);
  carryOut(rehearsal, 'rehearsal');
  carryOut(corbelFound, 'corbel found');
  const ended = [...plant.estate.table('drill').values()].map(({ name }) => ({ do: 'drill.end', drill: name }));
  clock.advance((REHEARSED_MINUTES / 2) * MINUTE);
  carryOut(ended, 'ended');
  clock.advance((REHEARSED_MINUTES / 2) * MINUTE);
  changes.night.approveNow(changes.prepareNow(tonight.title, tonight.operations, 'demo'), tonight.terms);
  changes.prepareNow(secondSite.title, secondSite.operations, 'demo');
  changes.prepareNow(secondChange.title, secondChange.operations, 'demo');
  changes.prepareNow(preparedChange.title, preparedChange.operations, 'demo');
}

const KEY = Symbol.for('trabes.instance');
const holder = globalThis as unknown as { [KEY]?: Trabes };

/** The one instance of this process; Next evaluates modules more than once, so it hangs on the global object. */
export function trabes(): Trabes {
  if (!holder[KEY]) {
    const settings = readSettings();
    const opened = openTrabes(settings.databaseFile, settings.fill, settings);
    opened.plant.store.lock?.says(addressOf(settings));
    opened.clock.start();
    // The first reader finds the drawing's figures ready.
    setTimeout(() => void opened.drawing.sight(), 400).unref();
    opened.plant.troubles.tell();
    const end = () => {
      opened.plant.events.shutDown();
      opened.clock.stop();
    };
    process.once('SIGTERM', end);
    process.once('SIGINT', end);
    process.once('exit', () => opened.plant.close());
    holder[KEY] = opened;
  }
  return holder[KEY];
}
