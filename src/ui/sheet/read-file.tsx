'use client';

/** A button that hands over the text of a chosen file. */
export function ReadFile({
  onText,
  ...rest
}: {
  label: string;
  accept: string;
  onText: (text: string, name: string) => void;
}) {
  return <ChooseFile {...rest} onFile={(file) => void file.text().then((text) => onText(text, file.name))} />;
}

/** A button that hands over a chosen file, unread. */
export function ChooseFile({ label, accept, onFile }: { label: string; accept: string; onFile: (file: File) => void }) {
  return (
    <label className="btn inline-flex cursor-pointer items-center focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-ink">
      {label}
      <input
        type="file"
        accept={accept}
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) onFile(file);
        }}
      />
    </label>
  );
}
