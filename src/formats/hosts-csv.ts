import Papa from 'papaparse';
import { osFamilies } from '@/core/estate/entities';
import type { OperationDocument } from '@/core/change/registry';

/** One line of the list: the host it describes, or why it cannot be read. */
export interface HostLine {
  /** As an editor counts, the header being line 1. */
  line: number;
  name: string;
  operation?: OperationDocument;
  problems: { message: string; mend: string }[];
}

export type ReadHosts =
  { ok: true; lines: HostLine[]; ignored: string[] } | { ok: false; message: string; mend: string };

/** Header names, matched without regard to case, blanks, hyphens and underscores. */
const headers: Record<string, readonly string[]> = {
  name: ['name', 'host', 'hostname'],
  cluster: ['cluster', 'hostcluster'],
  site: ['site', 'location'],
  os: ['os', 'operatingsystem', 'osfamily', 'operatingsystemfamily'],
  initiators: ['initiators', 'initiator', 'iqn', 'iqns'],
  addresses: ['interfaceaddresses', 'interfaces', 'addresses', 'address', 'ip', 'ips'],
};
const required = ['name', 'site', 'os'];

const fold = (text: string): string => text.toLowerCase().replace(/[\s_-]+/g, '');
const split = (cell: string): string[] =>
  cell
    .split(/[;,|\s]+/)
    .map((part) => part.trim())
    .filter(Boolean);

/** `eth0=10.40.1.21/24` names its interface; a bare address gets the next `ethN`. */
function interfaces(cell: string): { name: string; addresses: string[] }[] {
  return split(cell).map((part, k) => {
    const [name, address] = part.includes('=') ? part.split('=', 2) : [`eth${k}`, part];
    return { name: name!, addresses: [address!] };
  });
}

/** Reads a list of hosts: name, cluster, site, operating system, initiators, interface addresses; several in a cell are parted by ; or blanks. */
export function readHostsCsv(text: string): ReadHosts {
  const body = text.replace(/^\uFEFF/, '');
  if (body.trim() === '')
    return { ok: false, message: 'The file is empty.', mend: 'Put a header line and one host a line into it.' };
  const { data } = Papa.parse<string[]>(body, { skipEmptyLines: false });
  const head = data[0]!.map(fold);
  const columns: Record<string, number> = {};
  for (const [field, names] of Object.entries(headers)) {
    const at = head.findIndex((name) => names.includes(name));
    if (at >= 0) columns[field] = at;
  }
  const missing = required.filter((field) => columns[field] === undefined);
  if (missing.length > 0)
    return {
      ok: false,
      message: `The header line names no ${missing.join(', no ')}.`,
      mend: 'Write: name,cluster,site,operating system,initiators,interface addresses.',
    };
  const known = new Set(Object.values(columns));
  const ignored = data[0]!
    .filter((_, k) => !known.has(k))
    .map((name) => name.trim())
    .filter(Boolean);

  const lines: HostLine[] = [];
  let lineNumber = 1;
  for (const row of data) {
    const line = lineNumber;
    lineNumber += 1 + row.reduce((sum, cell) => sum + (cell.match(/\n/g)?.length ?? 0), 0);
    if (line === 1 || row.every((cell) => cell.trim() === '')) continue;
    lines.push(readLine(line, (field) => (columns[field] === undefined ? '' : (row[columns[field]] ?? '').trim())));
  }
  if (lines.length === 0)
    return { ok: false, message: 'The file has a header line and no host.', mend: 'Put one host a line below it.' };
  return { ok: true, lines, ignored };
}

function readLine(line: number, cell: (field: string) => string): HostLine {
  const problems: HostLine['problems'] = [];
  const name = cell('name');
  const os = osFamilies.find((family) => family === fold(cell('os')));
  if (name === '') problems.push({ message: 'The line names no host.', mend: 'Write its name.' });
  if (cell('site') === '') problems.push({ message: 'The line names no site.', mend: 'Write where the host stands.' });
  if (!os)
    problems.push({
      message:
        cell('os') === ''
          ? 'The line names no operating system.'
          : `${cell('os')} is no known family of operating systems.`,
      mend: `Write ${osFamilies.join(', ')}.`,
    });
  if (problems.length > 0) return { line, name, problems };
  const operation: OperationDocument = {
    do: 'host.create',
    name,
    os,
    site: cell('site'),
    initiators: split(cell('initiators')),
    interfaces: interfaces(cell('addresses')),
  };
  if (cell('cluster') !== '') operation.cluster = cell('cluster');
  return { line, name, operation, problems };
}
