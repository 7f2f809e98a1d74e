'use client';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState, useMemo } from 'react';
import type { ImportReport } from '@/core/change/record';
import type { Refusal } from '@/core/operation/refusal';
import { api, type ApiRefusal } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { ReadFile } from './read-file';
import { RefusalLine } from './refusal-line';
import { SheetFrame } from './sheet-frame';
import { Waiting } from './waiting';

/** A kind of list, and how it looks. */
interface ListKind {
  title: string;
  line: string;
  label: string;
  accept: string;
  placeholder: string;
  example: string;
  hint: string;
  later: string;
  column: string;
  send: (text: string, signal?: AbortSignal) => Promise<ImportReport>;
}

export const hostList: ListKind = {
  title: 'Import a list of hosts',
  line: 'CSV; one host a line',
  label: 'List of hosts',
  accept: '.csv,text/csv,text/plain',
  placeholder: 'name,cluster,site,operating system,initiators,interface addresses',
  example: `name,cluster,site,operating system,initiators,interface addresses
rota-1,crew,Nordkai,linux,iqn.2031-04.example.skarholt:rota-1,10.40.1.71/24; 10.40.2.71/24`,
  hint: 'Header names are read in any case. Several initiators or addresses in a cell are parted by ; or a blank. An address may name its interface: eth1=10.40.2.71/24.',
  later: 'Nothing is registered before you review and run the change.',
  column: 'Host',
  send: api.importHosts,
};

export const zoningList: ListKind = {
  title: 'Import aliases and zones',
  line: 'CSV or JSON, as they are exported',
  label: 'List of aliases and zones',
  accept: '.csv,.json,text/csv,application/json,text/plain',
  placeholder: 'fabric,what,name,kind,members,principals',
  example: `fabric,what,name,kind,members,principals
A,alias,ticket-3_hba0,,50:00:a6:6d:40:00:00:01,
A,zone,ticket-3_hba0__lintel-1,ordinary,ticket-3_hba0; lintel-1_a0; lintel-1_b0,`,
  hint: 'Members are aliases, port names in any spelling, or domain,port; several in a cell are parted by ;. Aliases may stand below the zones that use them. What is there already as it stands is left alone.',
  later:
    'Nothing is changed before you review and run the change, and nothing is enforced before a zone set is activated.',
  column: 'Name',
  send: api.importZoning,
};

export const traceList: ListKind = {
  title: 'Read a trace',
  line: 'CSV, or the text of a block layer; one I/O a line, or measured rates',
  label: 'Trace of block I/O',
  accept: '.csv,.txt,text/csv,text/plain',
  placeholder: 'time,volume,offset,size,type',
  example: `time,volume,offset,size,type
0.000,lintel-1/tickets,1048576,8192,read
0.004,lintel-1/tickets,2097152,8192,write`,
  hint: 'Times are seconds from the beginning and never run back; offsets and sizes are bytes. In the text of a block layer what is queued counts, and a line # volume array/name says which volume it is. Measured rates have the columns time, volume, reads, writes and bytes, a second each; a row holds until the next.',
  later: 'Nothing is known of the volumes anew before you review and run the change.',
  column: 'Volume',
  send: api.importTrace,
};

export const calendarList: ListKind = {
  title: 'Import schedules from a calendar',
  line: 'iCalendar, as calendars write it',
  label: 'Calendar',
  accept: '.ics,text/calendar,text/plain',
  placeholder: 'BEGIN:VCALENDAR',
  example: `BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VEVENT
UID:night
DTSTART;TZID=Europe/Oslo:20310415T023000
RRULE:FREQ=DAILY
SUMMARY:Harbour night: nightly
END:VEVENT
END:VCALENDAR`,
  hint: 'An event that recurs is a schedule; its summary names the plan and, after a colon, the schedule. Zones are known by their names.',
  later: 'Nothing is copied before you review and run the change, and attach the plan.',
  column: 'Event',
  send: api.importCalendar,
};

/** A list becomes a change; what was taken and what was refused is told line by line. */
export function ListImportSheet({ kind }: { kind: ListKind }) {
  const columns = useMemo(() => lineColumns(kind.column), [kind.column]);
  const { open } = usePlace();
  const client = useQueryClient();
  const [text, setText] = useState('');
  const cancel = useRef<AbortController | null>(null);
  const read = useMutation<ImportReport, ApiRefusal, string>({
    mutationFn: (list) => {
      cancel.current = new AbortController();
      return kind.send(list, cancel.current.signal);
    },
    onSuccess: () => client.invalidateQueries(),
  });
  const report = read.data;
  return (
    <SheetFrame
      title={kind.title}
      line={kind.line}
      foot={
        <div className="flex items-center gap-3">
          {read.isPending ? (
            <Waiting id="plan" words="Planning" onCancel={() => cancel.current?.abort()} />
          ) : (
            <span className="flex-1 text-ink2">
              {report
                ? `${report.taken} taken, ${report.refused} refused.${report.ignored.length > 0 ? ` Columns left aside: ${report.ignored.join(', ')}.` : ''}`
                : kind.later}
            </span>
          )}
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
            accept={kind.accept}
            onText={(content) => {
              setText(content);
              read.mutate(content);
            }}
          />
          <span className="text-ink2">or paste the lines here</span>
          <button type="button" className="verb" onClick={() => setText(kind.example)}>
            Show an example
          </button>
        </div>
        <textarea
          aria-label={kind.label}
          value={text}
          spellCheck={false}
          onChange={(event) => {
            setText(event.target.value);
            read.reset();
          }}
          rows={8}
          placeholder={kind.placeholder}
          className="field mono h-auto! py-1.5 leading-[17px]"
        />
        <p className="narrow text-ink2">{kind.hint}</p>
        {read.error &&
          (read.error.refusals.length > 0
            ? read.error.refusals
            : [read.error as Pick<Refusal, 'message' | 'mend'>]
          ).map((refusal) => <RefusalLine key={refusal.message} refusal={refusal} />)}
        {report && (
          <DataTable
            label="What became of each line"
            rows={report.lines}
            keyOf={({ line }) => String(line)}
            columns={columns}
          />
        )}
      </div>
    </SheetFrame>
  );
}

const lineColumns = (what: string): Column<ImportReport['lines'][number]>[] => [
  { head: 'Line', kind: 'number', value: ({ line }) => line },
  { head: what, kind: 'name', width: 'whitespace-nowrap', value: ({ name }) => name || '–' },
  {
    head: 'Outcome',
    value: outcomeWords,
    cell: (line) => (
      <span className="flex items-baseline gap-2">
        <StatePost post={line.taken ? 'stands' : 'broken'} />
        <span className={line.taken ? '' : 'text-red'}>
          {outcomeWords(line)}
          {line.notes.map((note) => (
            <span key={note} className="block text-ink2">
              {note}
            </span>
          ))}
        </span>
      </span>
    ),
  },
];

const outcomeWords = ({ taken, said }: ImportReport['lines'][number]): string =>
  taken ? `Taken. ${said}.` : `Refused. ${said}`;
