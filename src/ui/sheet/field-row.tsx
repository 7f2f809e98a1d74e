import { useId } from 'react';
import type { FieldSpec } from '@/core/operation/form';
import type { Comparison, FieldForetold } from '@/core/operation/operation';
import type { Refusal } from '@/core/operation/refusal';
import { Interfaces, Lines, Pick, Ports, Scale, Several, Toggle, type InterfaceRow } from './controls';
import { LevelComparison } from './level-comparison';

/** How the reader looks at a comparison: asked for figures alone, no part of the operation. */
export function Lens({
  fields,
  values,
  onChange,
}: {
  fields: readonly FieldSpec[];
  values: Record<string, unknown>;
  onChange: (name: string, value: string) => void;
}) {
  return (
    <fieldset className="grid grid-cols-3 gap-x-6 border-b border-rule-faint px-4 py-1">
      <legend className="sr-only">Compared for</legend>
      {fields.map(({ name, label, range, placeholder }) => {
        const value = values[name];
        const text = typeof value === 'string' ? value : '';
        return (
          <label key={name} className="grid">
            <span className="caps">{label}</span>
            {range ? (
              <Scale
                label={label}
                value={text === '' ? range.start : Number(text)}
                range={range}
                onChange={(next) => onChange(name, next)}
              />
            ) : (
              <input
                className="field h-6!"
                value={text}
                placeholder={placeholder}
                onChange={(event) => onChange(name, event.target.value)}
              />
            )}
          </label>
        );
      })}
    </fieldset>
  );
}

interface FieldRowProps {
  field: FieldSpec;
  foretold: FieldForetold | undefined;
  value: unknown;
  refusals: Refusal[];
  comparison: Comparison | undefined;
  onChange: (value: unknown) => void;
}

export function FieldRow({ field, foretold, value, refusals, comparison, onChange }: FieldRowProps) {
  const id = useId();
  const says = `${id}-says`;
  const invalid = refusals.length > 0;
  const consequence = (
    <div id={says} className="min-w-0 py-[5px] text-ink2">
      {invalid
        ? refusals.slice(0, 2).map((refusal) => (
            <p key={refusal.message} className="refusal" role="alert">
              {refusal.message} <span className="text-ink">{refusal.mend}</span>
            </p>
          ))
        : foretold?.says}
    </div>
  );
  if (field.control === 'levels')
    return (
      <div className="px-4 pt-2">
        {comparison && (
          <LevelComparison comparison={comparison} value={typeof value === 'string' ? value : ''} onPick={onChange} />
        )}
        {consequence}
      </div>
    );
  const text = typeof value === 'string' ? value : '';
  const list = Array.isArray(value) ? (value as string[]) : [];
  const choices = foretold?.choices ?? [];
  const control = () => {
    switch (field.control) {
      case 'select':
        return <Pick id={id} value={text} choices={choices} onPick={onChange} invalid={invalid} describedBy={says} />;
      case 'several':
        return <Several label={field.label} value={list} choices={choices} onChange={onChange} describedBy={says} />;
      case 'lines':
        return (
          <Lines
            id={id}
            label={field.label}
            value={list}
            onChange={onChange}
            placeholder={field.placeholder}
            invalid={invalid}
            describedBy={says}
          />
        );
      case 'interfaces':
        return (
          <Interfaces
            id={id}
            value={value as InterfaceRow[]}
            onChange={onChange}
            invalid={invalid}
            describedBy={says}
          />
        );
      case 'ports':
        return (
          <Ports value={value === 'all' ? 'all' : list} choices={choices} onChange={onChange} describedBy={says} />
        );
      case 'switch':
        return (
          <Toggle
            id={id}
            value={value === '' ? foretold?.suggested === 'true' : value === true}
            onChange={onChange}
            describedBy={says}
          />
        );
      case 'drives':
        return <p className="py-[5px]">{list.length === 0 ? 'Tick them in the drawing.' : list.join(', ')}</p>;
      default:
        return (
          <input
            id={id}
            className="field"
            type={field.control === 'secret' ? 'password' : 'text'}
            value={text}
            placeholder={field.placeholder}
            inputMode={field.control === 'number' ? 'numeric' : undefined}
            autoComplete="off"
            spellCheck={false}
            aria-invalid={invalid}
            aria-describedby={says}
            onChange={(event) => onChange(event.target.value)}
          />
        );
    }
  };
  const wide = ['interfaces', 'lines', 'several'].includes(field.control);
  return (
    <div
      data-field={field.name}
      className={`grid gap-x-3 border-b border-rule-faint px-4 py-1.5 ${wide ? 'grid-cols-[96px_minmax(0,280px)_minmax(0,1fr)]' : 'grid-cols-[96px_minmax(0,212px)_minmax(0,1fr)]'}`}
    >
      <label htmlFor={id} className="caps pt-[7px]">
        {field.label}
      </label>
      <div className="min-w-0">{control()}</div>
      {consequence}
    </div>
  );
}
