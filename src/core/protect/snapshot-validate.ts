import { z } from 'zod';
import { mappingOf } from '../attach/paths';
import { changed } from '../estate/effects';
import type { Host, Snapshot } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import { draftHost, hostChoices } from '../operation/draft';
import { pick, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted } from '../units/counted';
import { MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { GIB } from '../units/bytes';
import { arrayAnswers } from '../volume/health';
import { usersOf } from './pause';
import { draftPoints, pointChoices } from './points-field';
import { askPoints, askProtected, namedWords, protectedFields } from './subject';
import { namedFields, namedParams } from './named';

const schema = z.object({
  ...namedParams,
  copy: z.string(),
  host: z.string().describe('Who looks at it: one that does not work with the data'),
});
type Params = z.output<typeof schema>;

/** What looking at one copy finds: its file system, its named files, and whether an application would start from it. */
export function lookAt(copy: Snapshot, host: Host): { good: boolean; says: string; took: Milliseconds } {
  const took = MINUTE + Math.round((copy.written / (100 * GIB)) * SECOND * 10);
  if (copy.written === 0) return { good: true, took, says: 'nothing was ever written to it' };
  if (copy.image === null) return { good: false, took, says: 'no file system stands on it' };
  const files = counted(copy.files.length, 'file');
  const start =
    host.application === 'none'
      ? ''
      : copy.label === 'application'
        ? '; the application starts at once'
        : '; the application starts after its recovery';
  const log = copy.label === 'application' ? 'clean' : 'whole after its log was read';
  return { good: true, took, says: `${copy.image.fileSystem} is ${log}, ${files} read with their checksums${start}` };
}

/** Why a host cannot look at copies of a subject. */
function unfitHost(view: EstateView, host: Host, users: readonly Host[]): string | undefined {
  if (users.some((user) => user.id === host.id)) return 'works with the data';
  return view.table('initiator').countBy('host', host.id) === 0 ? 'is on no record' : undefined;
}

export const snapshotValidate: OperationType<Params> = {
  kind: 'snapshot.validate',
  verb: 'Prove a copy',
  summary:
    'A host that does not work with the data looks at a copy: file system, files, and whether the application would start. It is proven until a look fails.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copy: pick('Copy'),
      host: the.host,
    },
  },
  title: (p) => `Prove ${p.copy} of ${namedWords(p)} at ${p.host}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const [point] = subject ? askPoints(view, asks, subject, [p.copy], 'copy') : [];
    const host = asks.find('host', p.host, 'host');
    if (!subject || !point || !host) return refused(asks.refusals);
    const unfit = unfitHost(view, host, usersOf(view, subject.volumes));
    if (unfit)
      asks.refuse({
        code: 'host-not-apart',
        field: 'host',
        subject: subjectOf('host', host),
        message: `${host.name} ${unfit}; a copy is looked at where nothing can be mixed up with it.`,
        mend: 'Choose another host.',
      });
    const arrays = [...new Set(point.copies.map((copy) => arrayOf(view, volumeOf(view, copy))))];
    for (const array of arrays) {
      if (!arrayAnswers(view, array.id))
        asks.refuse({
          code: 'array-silent',
          field: 'copy',
          subject: subjectOf('array', array),
          message: `${array.name} does not answer.`,
          mend: `Bring a controller of ${array.name} up first.`,
        });
    }
    for (const copy of point.copies)
      if (mappingOf(view, host.id, copy.volume))
        asks.refuse({
          code: 'host-not-apart',
          field: 'host',
          subject: subjectOf('host', host),
          message: `${host.name} sees ${volumeOf(view, copy).name} itself.`,
          mend: 'Choose a host that does not.',
        });
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 1));
    const looks = point.copies.map((copy) => ({ copy, ...lookAt(copy, host) }));
    const took = Math.max(...looks.map((one) => one.took));
    const bad = looks.filter((one) => !one.good);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Prove ${point.name} of ${subject.name}: ${bad.length === 0 ? 'good' : `${bad.map(({ copy, says }) => `${volumeOf(view, copy).name}: ${says}`).join('; ')}`}`,
      takes: took,
      effects: looks.map(({ copy, good, says }) =>
        changed('snapshot', copy, { verdict: { at: context.now + took, good, host: host.name, took, says } }),
      ),
      notes: looks.map(({ copy, says }) => `${volumeOf(view, copy).name}: ${says}.`),
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const [point] = draftPoints(view, draft);
    const host = draftHost(view, draft);
    const users = point
      ? usersOf(
          view,
          point.copies.map((copy) => volumeOf(view, copy)),
        )
      : [];
    fields.copy = {
      choices: pointChoices(view, draft, context.now, ({ copies }) =>
        copies.every((copy) => copy.verdict?.good) ? 'is proven' : undefined,
      ),
    };
    fields.host = {
      choices: hostChoices(view).map((choice) => {
        const row = [...view.table('host').values()].find((one) => one.name === choice.value)!;
        const why = unfitHost(view, row, users);
        return why ? { ...choice, unfit: why } : choice;
      }),
      says:
        host && point
          ? `${counted(point.copies.length, 'volume')} are looked at; none of them is mapped or mounted for it.`
          : '',
    };
    return { fields };
  },
};
