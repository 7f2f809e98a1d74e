import type { ArrayRow, Drive } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, draftArray, draftList } from '../operation/draft';
import { lookUpDrive, type Inquiry } from '../operation/inquiry';
import type { Draft, Foretold } from '../operation/operation';
import { driveChoices } from '../raid/members';

/** A reason against a drive, as operations on drives give it. */
export type Against = (view: EstateView, drive: Drive) => { code: string; why: string; mend: string } | null;

/** The drive an operation on one drive names, or a refusal in the words of `against`. */
export function askDrive(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow | undefined,
  ref: string,
  against: Against,
): Drive | undefined {
  const drive = array && asks.drive(ref, 'drives', array);
  const problem = drive && against(view, drive);
  if (problem)
    asks.refuse({
      code: problem.code,
      field: 'drives',
      subject: { kind: 'drive', id: drive.id, name: ref },
      message: `Drive ${ref} ${problem.why}.`,
      mend: problem.mend,
    });
  return drive;
}

/** The fields that all operations on drives share, and what is ticked. */
export function driveFields(
  view: EstateView,
  draft: Draft,
  against: Against,
): { fields: Foretold['fields']; array: ArrayRow | undefined; drives: Drive[] } {
  const array = draftArray(view, draft);
  const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, drives: {} };
  if (!array) return { fields, array, drives: [] };
  const choices = driveChoices(view, array, against);
  const fit = choices.filter((choice) => !('unfit' in choice));
  fields.drives!.choices = choices;
  fields.drives!.says = fit.length === 0 ? 'None can be chosen now.' : `${fit.length} can be chosen.`;
  const drives = draftList(draft, 'drives').flatMap((ref) => lookUpDrive(view, ref, array.id) ?? []);
  return { fields, array, drives };
}
