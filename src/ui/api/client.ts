import type { MutedFinding } from '@/core/check/engine';
import type { Check } from '@/core/check/finding';
import type { ChangeSummary, ChangeView, ImportReport } from '@/core/change/record';
import type { Preview } from '@/core/change/preview';
import type { OperationDocument } from '@/core/change/registry';
import type { LabView } from '@/core/lab/view';
import type { Foretold } from '@/core/operation/operation';
import type { Refusal } from '@/core/operation/refusal';
import type { CapacityModel, PoolCapacity } from '@/core/space/capacity';
import type { PoolRunway } from '@/core/space/runway';
import type { Chain } from '@/core/span/chain';
import type { Facts } from '@/core/span/facts';
import type { SpanModel } from '@/core/span/model';
import type { Hit } from '@/core/span/search';
import type { FabricModel } from '@/core/trace/matrix';
import type { MergeAnswer } from '@/core/fabric/merge';
import type { LoginTest } from '@/core/iscsi/login-log';
import type { HostSheet } from '@/core/trace/host-view';
import type { LoadView } from '@/core/trace/load-view';
import type { TargetView } from '@/core/trace/target-view';
import type { Topology } from '@/core/trace/topology';
import type { Trace } from '@/core/trace/trace';
import type { WhatIf } from '@/core/whatif/report';

/** What the server refused, in its words. */
export class ApiRefusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly mend: string,
    readonly refusals: Refusal[],
  ) {
    super(message);
  }
}

async function request<T>(method: string, path: string, body?: { type: string; text: string }): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/v1${path}`, {
      method,
      ...(body ? { headers: { 'content-type': body.type }, body: body.text } : {}),
    });
  } catch {
    throw new ApiRefusal(0, 'no-answer', 'The server does not answer.', 'Start it again, then try once more.', []);
  }
  if (response.status === 204) return undefined as T;
  const value = (await response.json()) as T & { title?: string; mend?: string; code?: string; refusals?: Refusal[] };
  if (response.ok) return value;
  throw new ApiRefusal(
    response.status,
    value.code ?? 'unknown',
    value.title ?? 'The server refused.',
    value.mend ?? '',
    value.refusals ?? [],
  );
}

const jsonBody = (value: unknown) => ({ type: 'application/json', text: JSON.stringify(value) });
const get = <T>(path: string) => request<T>('GET', path);
const post = <T>(path: string, value?: unknown) =>
  request<T>('POST', path, value === undefined ? undefined : jsonBody(value));

export interface FormAnswer extends Foretold {
  preview: Preview;
}
export interface CapacityView extends CapacityModel {
  version: number;
  now: number;
  runways: PoolRunway[];
}
export interface FindingsView {
  items: MutedFinding[];
  checks: Pick<Check, 'id' | 'severity' | 'title'>[];
  now: number;
}
export type Span = SpanModel & { version: number };

/** Components taken as failed, as the API is asked. */
export const failedQuery = (failed: readonly string[]): string =>
  failed.map((id) => `failed=${encodeURIComponent(id)}`).join('&');

export const api = {
  span: () => get<Span>('/span'),
  selection: (kind: string, id: string) =>
    get<{ chain: Chain; facts: Facts }>(`/span/selection?kind=${kind}&id=${encodeURIComponent(id)}`),
  capacity: () => get<CapacityView>('/capacity'),
  poolVolumes: (pool: string) =>
    get<{ pool: string; volumes: PoolCapacity['volumes'] }>(`/capacity?pool=${encodeURIComponent(pool)}`),
  fabric: (find = '') => get<{ items: FabricModel[] }>(`/fabric${find ? `?find=${encodeURIComponent(find)}` : ''}`),
  trace: (host: string, volume: string) =>
    get<Trace>(`/trace?host=${encodeURIComponent(host)}&volume=${encodeURIComponent(volume)}`),
  hostSheet: (host: string) => get<HostSheet>(`/host-sheet?host=${encodeURIComponent(host)}`),
  loginTest: (host: string, array: string) => post<LoginTest>('/login-test', { host, array }),
  whatIf: (failed: readonly string[], find: string) =>
    get<WhatIf>(`/what-if?${failedQuery(failed)}&find=${encodeURIComponent(find)}`),
  topology: (query: string) => get<Topology>(`/topology${query ? `?${query}` : ''}`),
  merge: (a: string, b: string) => get<MergeAnswer>(`/merge?a=${encodeURIComponent(a)}&b=${encodeURIComponent(b)}`),
  load: () => get<LoadView>('/load'),
  targets: () => get<TargetView>('/targets'),
  importZoning: (text: string) => request<ImportReport>('POST', '/zoning/import', { type: 'text/plain', text }),
  findings: () => get<FindingsView>('/findings'),
  search: (text: string) => get<{ items: Hit[] }>(`/search?q=${encodeURIComponent(text)}`),
  operations: () => get<{ items: { kind: string; verb: string; summary: string }[] }>('/operations'),
  form: (
    kind: string,
    params: Record<string, unknown>,
    lens: Record<string, unknown>,
    change: string | null,
    before?: number,
  ) => post<FormAnswer>('/form', { do: kind, params, lens, change, ...(before === undefined ? {} : { before }) }),
  changes: () => get<{ items: ChangeSummary[]; tray: string | null }>('/changes'),
  change: (id: string) => get<ChangeView>(`/changes/${id}`),
  prepare: (title: string, operations: OperationDocument[]) => post<ChangeView>('/changes', { title, operations }),
  prepareFile: (yaml: string) => request<ChangeView>('POST', '/changes', { type: 'application/yaml', text: yaml }),
  revise: (id: string, revised: { title?: string; operations?: OperationDocument[] }) =>
    request<ChangeView>('PATCH', `/changes/${id}`, jsonBody(revised)),
  discard: (id: string) => request<void>('DELETE', `/changes/${id}`),
  tell: (id: string, verb: 'run' | 'undo' | 'retry' | 'cancel') => post<ChangeView>(`/changes/${id}/${verb}`),
  tray: () => get<{ change: ChangeView | null }>('/tray'),
  setTray: (change: string | null) => request<{ change: ChangeView | null }>('PUT', '/tray', jsonBody({ change })),
  importHosts: (csv: string) => request<ImportReport>('POST', '/hosts/import', { type: 'text/csv', text: csv }),
  importEstate: (text: string, yaml: boolean) =>
    request<{ rows: number }>('POST', '/estate', { type: yaml ? 'application/yaml' : 'application/json', text }),
  stock: (what: 'demo' | 'bare') => post<{ filled: string }>('/lab/stock', { what }),
  lab: () => get<LabView>('/lab'),
  clock: (speed: number) => post<{ now: number; speed: number }>('/lab/clock', { speed }),
  advance: (seconds: number) => post<{ now: number }>('/lab/advance', { seconds }),
  fault: (kind: string, component: string, clear: boolean) =>
    post<{ said: string }>('/lab/faults', { kind, component, clear }),
  deleteFiles: (host: string, device: string, size: string) =>
    post<{ deleted: string }>('/lab/files', { host, device, size }),
  traffic: (host: string, device: string, rate: string) =>
    post<{ rate: string }>('/lab/traffic', { host, device, rate }),
};
