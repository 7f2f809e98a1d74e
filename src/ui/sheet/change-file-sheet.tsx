'use client';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { ChangeView } from '@/core/change/record';
import type { Refusal } from '@/core/operation/refusal';
import { api, type ApiRefusal } from '../api/client';
import { usePlace } from '../shell/place';
import { ReadFile } from './read-file';
import { RefusalLine } from './refusal-line';
import { SheetFrame } from './sheet-frame';
import { Waiting } from './waiting';

const EXAMPLE = `trabes: 1
title: A second log for the gates
operations:
  - do: volume.create
    array: lintel-1
    pool: quay
    name: gate-audit
    size: 200 GiB
  - do: mapping.create
    host: gate-1
    array: lintel-1
    volumes: [gate-audit]
  - do: host.rescan
    host: gate-1
`;

/** A change file opened: previewed before anything runs. */
export function ChangeFileSheet() {
  const { open } = usePlace();
  const client = useQueryClient();
  const [text, setText] = useState('');
  const cancel = useRef<AbortController | null>(null);
  const read = useMutation<ChangeView, ApiRefusal, string>({
    mutationFn: (yaml) => {
      cancel.current = new AbortController();
      return api.prepareFile(yaml, cancel.current.signal);
    },
    onSuccess: async (change) => {
      await client.invalidateQueries();
      open('change', { id: change.id });
    },
  });
  return (
    <SheetFrame
      title="Open a change file"
      line="YAML"
      foot={
        <div className="flex items-center gap-3">
          {read.isPending ? (
            <Waiting id="plan" words="Planning" onCancel={() => cancel.current?.abort()} />
          ) : (
            <span className="flex-1 text-ink2">The review shows every step before it runs.</span>
          )}
          <button
            type="button"
            className="btn solid"
            disabled={text.trim() === '' || read.isPending}
            onClick={() => read.mutate(text)}
          >
            Preview it
          </button>
        </div>
      }
    >
      <div className="grid gap-2 px-4 py-3">
        <div className="flex items-center gap-3">
          <ReadFile
            label="Choose a file"
            accept=".yaml,.yml,.json"
            onText={(content) => {
              setText(content);
              read.mutate(content);
            }}
          />
          <span className="text-ink2">or paste it here</span>
          <button type="button" className="verb" onClick={() => setText(EXAMPLE)}>
            Show an example
          </button>
        </div>
        <textarea
          aria-label="Change file"
          value={text}
          spellCheck={false}
          onChange={(event) => {
            setText(event.target.value);
            read.reset();
          }}
          rows={18}
          placeholder={'trabes: 1\ntitle: …\noperations:\n  - do: …'}
          className="field mono h-auto! py-1.5 leading-[17px]"
        />
        {read.error &&
          (read.error.refusals.length > 0
            ? read.error.refusals
            : [read.error as Pick<Refusal, 'message' | 'mend'>]
          ).map((refusal) => <RefusalLine key={refusal.message} refusal={refusal} />)}
      </div>
    </SheetFrame>
  );
}
