/** One of a few ways to look at something, as verbs in a row: the present one is bold. */
export function VerbChoice<T extends string | number>({
  label,
  choices,
  value,
  onChange,
}: {
  label: string;
  choices: readonly (readonly [T, string])[];
  value: T;
  onChange: (value: T) => void;
}) {
  return (
    <span role="group" aria-label={label} className="flex gap-3">
      {choices.map(([one, words]) => (
        <button
          key={one}
          type="button"
          className={`verb ${value === one ? 'font-[700]!' : 'text-ink2'}`}
          aria-pressed={value === one}
          onClick={() => onChange(one)}
        >
          {words}
        </button>
      ))}
    </span>
  );
}
