'use client';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ImportReport } from '@/core/change/record';
import { api, type ApiRefusal } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { ReadFile } from './read-file';
import { SheetFrame } from './sheet-frame';

const EXAMPLE = `name,cluster,site,operating system,initiators,interface addresses
rota-1,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-1,10.40.1.71/24; 10.40.2.71/24`;

/** A list of hosts becomes a change; what was taken and what was refused is told line by line. */
export function HostImportSheet() {
  const { open } = usePlace();
  const client = useQueryClient();
  const [text, setText] = useState('');
  const read = useMutation<ImportReport, ApiRefusal, string>({
    mutationFn: api.importHosts,
    onSuccess: () => client.invalidateQueries(),
  });
  const report = read.data;
  return (
    <SheetFrame
      title="Import a list of hosts"
      line="CSV; one host a line"
      foot={
        <div className="flex items-center gap-3">
          <span className="flex-1 text-ink2">
            {report
              ? `${report.taken} taken, ${report.refused} refused.${report.ignored.length > 0 ? ` Columns left aside: ${report.ignored.join(', ')}.` : ''}`
              : 'Nothing is registered before you review and run the change.'}
          </span>
          {report?.change ? (
            <button type="button" className="btn solid" onClick={() => open('change', { id: report.change!.id })}>
              Review the change
            </button>
          ) : (
            <button
              type="button"
              className="btn solid"
              disabled={text.trim() === '' || read.isPending}
              onClick={() => read.mutate(text)}
            >
              Read the list
            </button>
          )}
        </div>
      }
    >
      <div className="grid gap-2 px-4 py-3">
        <div className="flex items-center gap-3">
          <ReadFile
            label="Choose a file"
            accept=".csv,text/csv,text/plain"
            onText={(content) => {
              setText(content);
              read.mutate(content);
            }}
          />
          <span className="text-ink2">or paste the lines here</span>
          <button type="button" className="verb" onClick={() => setText(EXAMPLE)}>
            Show an example
          </button>
        </div>
        <textarea
          aria-label="List of hosts"
          value={text}
          spellCheck={false}
          onChange={(event) => {
            setText(event.target.value);
            read.reset();
          }}
          rows={8}
          placeholder="name,cluster,site,operating system,initiators,interface addresses"
          className="field mono h-auto! py-1.5 leading-[17px]"
        />
        <p className="narrow text-ink2">
          Header names are read in any case. Several initiators or addresses in a cell are parted by ; or a blank. An
          address may name its interface: eth1=10.40.2.71/24.
        </p>
        {read.error && (
          <p role="alert" className="refusal">
            {read.error.message} <span className="text-ink">{read.error.mend}</span>
          </p>
        )}
        {report && (
          <table className="table" aria-label="What became of each line">
            <thead>
              <tr>
                <th className="caps right">Line</th>
                <th className="caps">Host</th>
                <th className="caps">Outcome</th>
              </tr>
            </thead>
            <tbody>
              {report.lines.map((line) => (
                <tr key={line.line}>
                  <td className="num right">{line.line}</td>
                  <td className="name whitespace-nowrap">{line.name || '–'}</td>
                  <td>
                    <span className="flex items-baseline gap-2">
                      <StatePost post={line.taken ? 'stands' : 'broken'} />
                      <span className={line.taken ? '' : 'text-red'}>
                        {line.taken ? `Taken. ${line.said}.` : `Refused. ${line.said}`}
                        {line.notes.map((note) => (
                          <span key={note} className="block text-ink2">
                            {note}
                          </span>
                        ))}
                      </span>
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </SheetFrame>
  );
}
