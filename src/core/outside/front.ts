import { z } from 'zod';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { Overlay } from '../estate/estate';
import { makeNaa, makeSerial } from '../naming/identity';
import { outsideOn } from '../move/outside';
import { draftArray, draftText } from '../operation/draft';
import { folded, pick, the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { directPool } from '../pool/direct';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { leastLoaded } from '../volume/create-room';
import { giveAll } from '../volume/grow';
import { askLun, backOf, lunChoices, noted, outsideOf, ownArrayChoices, refusalOn, stateWords } from './ask';
import { declaredForetold, declaredForm, declaredParams } from './luns-form';
import { carriedOver, stood } from './stand';

const schema = z.object({
  array: z.string(),
  lun: z.string(),
  name: z.string().optional().describe('Of the volume that hosts get; without it as the outside array calls it'),
  ...declaredParams,
});

export const outsideFront: OperationType<z.output<typeof schema>> = {
  kind: 'outside.front',
  verb: 'Show an outside LUN from here',
  summary:
    'A LUN that is shown to this array alone becomes a volume of it, one to one: hosts reach their data through this array.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      lun: pick('LUN'),
      name: 'Name',
      media: folded(declaredForm.media),
      declared: folded(declaredForm.declared),
    },
  },
  title: (p) => `Show ${p.lun} from ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(
        view,
        asks,
        array,
        p.lun,
        ['fenced'],
        'Take it over first, so that it is shown to this array alone.',
        'lun',
      );
    const back = row && backOf(view, row);
    const [seen] = row ? view.table('mapping').by('volume', row.volume) : [];
    const shown = row && outsideOn('fenced', { event: 'show', hostsOffOldPath: seen === undefined });
    if (row && shown && !shown.ok)
      asks.refuse(
        refusalOn(row, shown.reason, `${row.name}: ${shown.message}`, 'Take that mapping away first.', {
          field: 'lun',
        }),
      );
    const name = array && back && asks.freeName('volume', p.name?.trim() || back.name, array);
    const owner = array && leastLoaded(view, array.id);
    if (asks.refusals.length > 0 || !array || !row || !back || !name || !owner) return refused(asks.refusals);
    const { group, drive, effects } = stood(
      view,
      row,
      { media: p.media, declared: p.declared, whole: true },
      context.newId,
    );
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const room = directPool(overlay, group, context.newId);
    overlay.apply(room.effects);
    const id = context.newId('volume');
    const front = rowOf('volume', {
      id,
      name,
      array: array.id,
      pool: room.pool.id,
      size: back.size,
      provisioning: 'thick',
      naa: makeNaa(array.companyId, id),
      serial: makeSerial(id),
      owner: owner.id,
      createdAt: context.now,
      reduction: false,
      ...carriedOver(back),
      image: back.image,
    });
    const hosts = row.formerly.flatMap(({ host }) => view.table('host').get(host)?.name ?? []);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Show ${row.name} as ${name}: ${formatBytes(back.size)} one to one, nothing is copied`,
      takes: 3 * SECOND,
      effects: [
        ...effects,
        ...room.effects,
        created('volume', front),
        ...giveAll(overlay, front, room.pool, context.newId).effects,
        // While hosts go by the front, what they do is its.
        changed('volume', back, { activity: null, workload: null }),
        changed('outsideLun', row, {
          state: 'fronted',
          drive: drive.id,
          front: id,
          log: noted(row, context.now, `serves hosts as ${name}`),
        }),
      ],
      notes: [
        `${name} is as available as ${outsideOf(view, row).name}, one hop further; it can be moved into a pool while hosts work.`,
      ],
      next:
        hosts.length > 0
          ? [
              nextStep(`Map it to ${someOf(hosts)}`, 'mapping.create', {
                array: array.name,
                host: hosts[0],
                volumes: [name],
              }),
            ]
          : [nextStep('Map it to a host', 'mapping.create', { array: array.name, volumes: [name] })],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const row = array && lookUp(view, 'outsideLun', draftText(draft, 'lun'), array.id);
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        lun: {
          choices: lunChoices(view, array, (one) => (one.state === 'fenced' ? null : stateWords[one.state])),
          says: row
            ? `${formatBytes(row.size)}, ${row.holds ?? 'nothing on it'}.`
            : 'What is shown to this array alone.',
        },
        name: row
          ? { suggested: backOf(view, row).name, says: 'What hosts find is another device with the same data.' }
          : {},
        ...declaredForetold,
      },
    };
  },
};
