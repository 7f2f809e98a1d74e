import { isOwn } from '../estate/own';
import type { Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { Check, CheckContext, Found, Severity } from './finding';

type Looked = 'drive' | 'raidGroup' | 'pool' | 'volume';

/** What a check says of one row, or nothing. */
export type Look<Row, More = CheckContext> = (view: EstateView, row: Row, more: More) => Omit<Found, 'subject'> | null;

export const arrayName = (view: EstateView, row: { array: string }): string => arrayOf(view, row).name;

/** Makes checks that look at each row of a kind by itself; `nameOf` names a row within its array. */
export const each =
  <K extends Looked>(kind: K, nameOf: (view: EstateView, row: Rows[K]) => string) =>
  (id: string, severity: Severity, title: string, look: Look<Rows[K]>): Check => ({
    id,
    severity,
    title,
    *find(view, context) {
      for (const row of view.table(kind).values()) {
        const found = isOwn(view, row) ? look(view, row, context) : null;
        yield (
          found && {
            subject: { kind, id: row.id, name: `${arrayName(view, row)} ${nameOf(view, row)}` },
            ...found,
          }
        );
      }
    },
  });
