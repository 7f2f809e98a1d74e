'use client';
import { getNonce } from 'get-nonce';
import { Checkbox, RadioGroup, Select, Slider, Switch } from 'radix-ui';
import { useId, useState } from 'react';
import type { Choice } from '@/core/operation/operation';

const NONE = '\u0000none';

interface PickProps {
  id: string;
  /** Where no label element names it. */
  label?: string;
  value: string;
  choices: readonly Choice[];
  onPick: (value: string) => void;
  invalid: boolean;
  describedBy: string;
}

/** One of several; what cannot be chosen is listed with the reason. */
export function Pick({ id, label, value, choices, onPick, invalid, describedBy }: PickProps) {
  const chosen = choices.find((choice) => choice.value === value);
  return (
    <Select.Root
      value={value === '' && !chosen ? '' : value || NONE}
      onValueChange={(next) => onPick(next === NONE ? '' : next)}
    >
      <Select.Trigger
        id={id}
        aria-label={label}
        aria-invalid={invalid}
        aria-describedby={describedBy}
        className="field flex cursor-pointer items-center gap-2 text-left"
      >
        <span className="flex-1 overflow-hidden text-ellipsis whitespace-nowrap">
          <Select.Value placeholder={choices.length === 0 ? 'None there' : 'Choose'}>
            {chosen?.label ?? (value || undefined)}
          </Select.Value>
        </span>
        <svg width="9" height="6" viewBox="0 0 9 6" aria-hidden="true">
          <path d="M1 1l3.5 3.5L8 1" fill="none" stroke="currentColor" strokeWidth="1.4" />
        </svg>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          className="z-50 max-h-[320px] min-w-[var(--radix-select-trigger-width)] border border-ink bg-raised"
        >
          <Select.Viewport className="py-1" nonce={getNonce()}>
            {choices.map((choice) => (
              <Select.Item
                key={choice.value}
                value={choice.value || NONE}
                disabled={choice.unfit !== undefined}
                className="cursor-pointer px-3 py-1 outline-none data-[disabled]:cursor-default data-[disabled]:text-ink3 data-[highlighted]:bg-ground data-[highlighted]:shadow-[inset_3px_0_0_var(--ink)]"
              >
                <Select.ItemText>{choice.label}</Select.ItemText>
                {choice.unfit && <span className="narrow"> – {choice.unfit}</span>}
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

const SHOWN = 200;

/** Any number of several, with a filter once there are many. */
export function Several({
  label,
  value,
  choices,
  onChange,
  describedBy,
}: {
  label: string;
  value: readonly string[];
  choices: readonly Choice[];
  onChange: (value: string[]) => void;
  describedBy: string;
}) {
  const [filter, setFilter] = useState('');
  const base = useId();
  const wanted = filter.trim().toLowerCase();
  // What the sheet was opened with stands first: in a long list it would be out of sight.
  const [given] = useState(() => new Set(value));
  const found = choices
    .filter((choice) => wanted === '' || choice.label.toLowerCase().includes(wanted))
    .sort((a, b) => Number(given.has(b.value)) - Number(given.has(a.value)));
  const fit = found.filter((choice) => !choice.unfit);
  const toggle = (name: string) =>
    onChange(value.includes(name) ? value.filter((one) => one !== name) : [...value, name]);
  return (
    <div role="group" aria-label={label} aria-describedby={describedBy} className="border border-field bg-raised">
      {choices.length > 8 && (
        <div className="flex items-center border-b border-rule-faint px-2">
          <input
            aria-label={`Filter ${label.toLowerCase()}`}
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
            placeholder="Filter"
            className="h-7 min-w-0 flex-1 bg-transparent placeholder:text-ink3"
          />
          <button
            type="button"
            className="verb narrow"
            onClick={() => onChange([...new Set([...value, ...fit.slice(0, SHOWN).map((choice) => choice.value)])])}
          >
            Tick {wanted ? 'these' : 'all'}
          </button>
        </div>
      )}
      <div className="scroller max-h-[156px] py-0.5">
        {found.slice(0, SHOWN).map((choice, k) => (
          <div key={choice.value} className="flex min-h-[24px] items-center gap-2 px-2">
            <Checkbox.Root
              id={`${base}-${k}`}
              checked={value.includes(choice.value)}
              disabled={choice.unfit !== undefined && !value.includes(choice.value)}
              onCheckedChange={() => toggle(choice.value)}
              className="grid size-[15px] flex-none place-items-center border border-ink data-[disabled]:border-field data-[state=checked]:bg-marker"
            >
              <Checkbox.Indicator>
                <svg width="11" height="11" viewBox="0 0 11 11" aria-hidden="true">
                  <path d="M1.5 6 4 9l5.5-7.5" fill="none" stroke="#10201a" strokeWidth="1.7" />
                </svg>
              </Checkbox.Indicator>
            </Checkbox.Root>
            <label
              htmlFor={`${base}-${k}`}
              className={`overflow-hidden text-ellipsis whitespace-nowrap ${choice.unfit ? 'text-ink3' : ''}`}
            >
              {choice.label}
              {choice.unfit && <span className="narrow"> – {choice.unfit}</span>}
            </label>
          </div>
        ))}
        {found.length === 0 && (
          <p className="px-2 py-1 text-ink3">{choices.length === 0 ? 'None there.' : 'None of that name.'}</p>
        )}
        {found.length > SHOWN && <p className="narrow px-2 text-ink3">{found.length - SHOWN} more: filter by name.</p>}
      </div>
    </div>
  );
}

/** Lines of text, one more than are filled. */
export function Lines({
  id,
  label,
  value,
  onChange,
  placeholder,
  invalid,
  describedBy,
}: {
  id: string;
  label: string;
  value: readonly string[];
  onChange: (value: string[]) => void;
  placeholder?: string | undefined;
  invalid: boolean;
  describedBy: string;
}) {
  const rows = [...value.filter((line, k) => line !== '' || k < value.length - 1), ''];
  return (
    <div className="grid gap-1">
      {rows.map((line, k) => (
        <input
          key={k}
          id={k === 0 ? id : undefined}
          aria-label={k === 0 ? undefined : `${label}, ${k + 1}`}
          aria-invalid={invalid && line !== ''}
          aria-describedby={describedBy}
          className="field mono"
          spellCheck={false}
          autoComplete="off"
          value={line}
          placeholder={k === 0 ? placeholder : 'one more'}
          onChange={(event) =>
            onChange(
              rows
                .map((old, at) => (at === k ? event.target.value : old))
                .filter((one, at) => one !== '' || at < rows.length - 1),
            )
          }
          onBlur={() => onChange(value.filter((one) => one.trim() !== ''))}
        />
      ))}
    </div>
  );
}

export interface InterfaceRow {
  name: string;
  address: string;
  mtu: string;
}

/** Interfaces of a host: name, address with prefix, MTU; one more row than are filled. */
export function Interfaces({
  id,
  value,
  onChange,
  invalid,
  describedBy,
}: {
  id: string;
  value: readonly InterfaceRow[];
  onChange: (value: InterfaceRow[]) => void;
  invalid: boolean;
  describedBy: string;
}) {
  const rows = [...value, { name: '', address: '', mtu: '' }];
  const put = (at: number, change: Partial<InterfaceRow>) => {
    const next = rows.map((row, k) => (k === at ? { ...row, ...change } : row));
    const row = next[at]!;
    // Whoever types an address wants an interface: it is called eth0, eth1 … until named otherwise.
    if (row.address !== '' && row.name === '') next[at] = { ...row, name: `eth${at}`, mtu: row.mtu || '9000' };
    onChange(next.filter((one, k) => k < next.length - 1 || one.name !== '' || one.address !== ''));
  };
  return (
    <div className="grid gap-1">
      {rows.map((row, k) => (
        <div key={k} className="grid grid-cols-[52px_1fr_52px] gap-1">
          <input
            id={k === 0 ? id : undefined}
            aria-label={`Interface ${k + 1}, name`}
            className="field"
            value={row.name}
            placeholder={`eth${k}`}
            onChange={(event) => put(k, { name: event.target.value })}
          />
          <input
            aria-label={`Interface ${k + 1}, address`}
            aria-invalid={invalid && row.address !== ''}
            aria-describedby={describedBy}
            className="field mono"
            spellCheck={false}
            value={row.address}
            placeholder="10.40.1.21/24"
            onChange={(event) => put(k, { address: event.target.value })}
          />
          <input
            aria-label={`Interface ${k + 1}, MTU`}
            className="field"
            inputMode="numeric"
            value={row.mtu}
            placeholder="MTU"
            onChange={(event) => put(k, { mtu: event.target.value })}
          />
        </div>
      ))}
    </div>
  );
}

/** All ports that the host can reach, or some. */
export function Ports({
  value,
  choices,
  onChange,
  describedBy,
}: {
  value: 'all' | string[];
  choices: readonly Choice[];
  onChange: (value: 'all' | string[]) => void;
  describedBy: string;
}) {
  const some = value !== 'all';
  const option = (key: string, label: string) => (
    <label className="flex min-h-[24px] items-center gap-2">
      <RadioGroup.Item value={key} className="grid size-[15px] place-items-center rounded-full border border-ink">
        <RadioGroup.Indicator className="size-[7px] rounded-full bg-ink" />
      </RadioGroup.Item>
      {label}
    </label>
  );
  return (
    <div>
      <RadioGroup.Root
        aria-label="Through"
        value={some ? 'some' : 'all'}
        onValueChange={(next) => onChange(next === 'all' ? 'all' : choices.map((choice) => choice.value))}
      >
        {option('all', 'All that it can reach')}
        {option('some', 'These ports')}
      </RadioGroup.Root>
      {some && <Several label="Ports" value={value} choices={choices} onChange={onChange} describedBy={describedBy} />}
    </div>
  );
}

/** Yes or no. */
export function Toggle({
  id,
  value,
  onChange,
  describedBy,
}: {
  id: string;
  value: boolean;
  onChange: (value: boolean) => void;
  describedBy: string;
}) {
  return (
    <span className="flex min-h-[28px] items-center gap-2">
      <Switch.Root
        id={id}
        checked={value}
        onCheckedChange={onChange}
        aria-describedby={describedBy}
        className="relative h-[16px] w-[30px] cursor-pointer border border-ink bg-raised data-[state=checked]:bg-ink"
      >
        <Switch.Thumb className="block h-[10px] w-[10px] translate-x-[2px] bg-ink data-[state=checked]:translate-x-[16px] data-[state=checked]:bg-raised" />
      </Switch.Root>
      {value ? 'On' : 'Off'}
    </span>
  );
}

/** A scale with a pointer. */
export function Scale({
  label,
  value,
  range,
  onChange,
}: {
  label: string;
  value: number;
  range: { from: number; to: number; step: number; unit: string };
  onChange: (value: string) => void;
}) {
  return (
    <span className="flex min-h-[24px] items-center gap-2">
      <Slider.Root
        value={[value]}
        min={range.from}
        max={range.to}
        step={range.step}
        onValueChange={([next]) => onChange(String(next))}
        className="relative flex h-6 min-w-[90px] flex-1 items-center"
      >
        <Slider.Track className="relative h-px flex-1 bg-ink2">
          <Slider.Range className="absolute -top-px h-[3px] bg-ink" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          className="block h-[14px] w-[8px] cursor-pointer border border-ink bg-raised"
        />
      </Slider.Root>
      <b className="num w-[52px] text-right font-[560]">
        {value} {range.unit}
      </b>
    </span>
  );
}
