'use client';
import { Popover } from 'radix-ui';
import { useTheme } from 'next-themes';
import { saying, type AnyColumn } from './columns';
import { lookToText, type TableLook } from './table-state';

/** Tables of more lines than this have their filter in sight; in shorter ones the eye is quicker. */
const SHORT = 8;

interface ToolsProps<R> {
  label: string;
  all: number;
  found: number;
  columns: readonly AnyColumn<R>[];
  look: TableLook;
  onLook: (look: Partial<TableLook>) => void;
  onSave: () => void;
}

/** What can be done with a table as a whole: words to filter by, columns to show, lines to take away. */
export function TableTools<R>({ label, all, found, columns, look, onLook, onSave }: ToolsProps<R>) {
  const long = all > SHORT || lookToText(look) !== '';
  if (all === 0) return null;
  if (!long) return <Menu label={label} columns={columns} look={look} onLook={onLook} onSave={onSave} short />;
  return (
    <div className="table-tools">
      <input
        className="field h-6! w-[170px]!"
        value={look.find}
        placeholder="Filter lines"
        aria-label={`Filter ${label}`}
        onChange={(event) => onLook({ find: event.target.value })}
        onKeyDown={(event) => {
          // The first Esc empties the field, the next one is the page's.
          if (event.key !== 'Escape' || look.find === '') return;
          event.preventDefault();
          event.stopPropagation();
          onLook({ find: '' });
        }}
      />
      <span className="num text-ink2" aria-live="polite">
        {found === all ? `${all} lines` : `${found} of ${all} lines`}
      </span>
      <span className="flex-1" />
      <Menu label={label} columns={columns} look={look} onLook={onLook} onSave={onSave} />
    </div>
  );
}

function Menu<R>({
  label,
  columns,
  look,
  onLook,
  onSave,
  short = false,
}: Omit<ToolsProps<R>, 'all' | 'found'> & { short?: boolean }) {
  const { resolvedTheme } = useTheme();
  const chosen = saying(columns);
  const toggle = (head: string) =>
    onLook({
      hidden: look.hidden.includes(head) ? look.hidden.filter((one) => one !== head) : [...look.hidden, head],
    });
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className={short ? 'table-menu' : 'verb'} aria-label={`Columns and CSV of ${label}`}>
          {short ? '⋯' : 'Columns, CSV'}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={2}
          data-theme={resolvedTheme}
          className="z-50 grid max-h-[60vh] gap-1 overflow-auto border border-ink bg-raised px-3 py-2"
        >
          <fieldset className="grid gap-0.5">
            <legend className="caps pb-1">Columns</legend>
            {chosen.map(({ head }) => {
              const on = !look.hidden.includes(head);
              return (
                <label key={head} className="flex cursor-pointer items-center gap-2">
                  <input
                    type="checkbox"
                    checked={on}
                    // One column at least stays.
                    disabled={on && look.hidden.length === chosen.length - 1}
                    onChange={() => toggle(head)}
                  />
                  {head}
                </label>
              );
            })}
          </fieldset>
          <div className="flex gap-3 border-t border-rule pt-1.5">
            <button type="button" className="verb" onClick={onSave}>
              Save as CSV
            </button>
            {lookToText(look) !== '' && (
              <button type="button" className="verb" onClick={() => onLook({ sort: null, find: '', hidden: [] })}>
                As it was
              </button>
            )}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
