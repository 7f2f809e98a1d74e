import type { FindingsAsked, FindingsTold } from '@/core/check/told';
import type { OutsideAnswer, OutsideLunAnswer } from '@/core/outside/answers';
import type { MoveAnswer, MovesAnswer } from '@/core/moving/answers';
import type { ConsumerPage } from '@/core/machine/view';
import type { FormSpec } from '@/core/operation/form';
import type { Check } from '@/core/check/finding';
import type { ChangeSummary, ChangeView, ImportReport, MailRow } from '@/core/change/record';
import type { Preview } from '@/core/change/preview';
import type { OperationDocument } from '@/core/change/registry';
import type { LabView } from '@/core/lab/view';
import type { Foretold } from '@/core/operation/operation';
import type { Refusal } from '@/core/operation/refusal';
import type { CapacityModel, PoolCapacity } from '@/core/space/capacity';
import type { PoolRunway } from '@/core/space/runway';
import type { Chain } from '@/core/span/chain';
import type { Facts } from '@/core/span/facts';
import type { SpanHost } from '@/core/span/model';
import type { PackedStorey, SpanSight } from '@/core/span/sight';
import type { Hit } from '@/core/span/search-sources';
import type { ProtectionAnswer } from '@/core/protect/lanes';
import type {
  EffectAnswer,
  EffectQuestion,
  FleetAnswer,
  LimitRow,
  LoadThings,
  ProposalAnswer,
  QueueAnswer,
  QueueQuestion,
  RoomAnswer,
  SubjectLoad,
  WhatIfAnswer,
  WhyAnswer,
} from '@/core/performance/answers';
import type { ClassesAnswer } from '@/core/service/answers';
import type { PlaceAnswer } from '@/core/service/place';
import type { SeveralAnswer } from '@/core/service/several';
import type { Keeping } from '@/core/kinds/kept-request';
import type { HeatMap, TierPolicyAnswer } from '@/core/performance/heat-map';
import type { LoadQuestion } from '@/core/performance/what-if';
import type { PointView } from '@/core/protect/subject-view';
import type { LineDay } from '@/core/replicate/line-day';
import type { ReplicationPlan } from '@/core/replicate/plan-view';
import type { ElsewhereAnswer, ReplicationView, SubjectAnswer } from '@/core/replicate/replication-view';
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

interface Asked {
  body?: { type: string; text: string | Blob };
  /** The revision of a draft that was looked at: one that is another by now is left as it is. */
  seen?: { id: string; revision: number };
  /** Takes the request back. */
  signal?: AbortSignal;
}

async function request<T>(method: string, path: string, { body, seen, signal }: Asked = {}): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/v1${path}`, {
      method,
      headers: {
        ...(body ? { 'content-type': body.type } : {}),
        ...(seen ? { 'if-match': `"${seen.id}.${seen.revision}"` } : {}),
      },
      ...(body ? { body: body.text } : {}),
      ...(signal ? { signal } : {}),
    });
  } catch (error) {
    if (signal?.aborted) throw new ApiRefusal(0, 'taken-back', 'It was taken back.', 'Nothing was kept.', []);
    if (!(error instanceof TypeError)) throw error;
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
  request<T>('POST', path, value === undefined ? {} : { body: jsonBody(value) });

/** A draft as it was looked at. */
type Seen = { id: string; revision: number };

export interface FormAnswer extends Foretold {
  preview: Preview;
  title: string;
}
export interface CapacityView extends CapacityModel {
  version: number;
  now: number;
  runways: PoolRunway[];
}
export interface FindingsView extends FindingsTold {
  checks: Pick<Check, 'id' | 'severity' | 'title'>[];
  now: number;
}
export type Sight = SpanSight & { version: number };

/** Components taken as failed, as the API is asked. */
export const failedQuery = (failed: readonly string[]): string =>
  failed.map((id) => `failed=${encodeURIComponent(id)}`).join('&');

const withSignal = (signal: AbortSignal | undefined) => (signal ? { signal } : {});

export const api = {
  sight: () => get<Sight>('/span/sight'),
  storey: (array: string) => get<PackedStorey>(`/span/storeys/${encodeURIComponent(array)}`),
  spanHosts: (ids: readonly string[]) => get<{ items: SpanHost[] }>(`/span/hosts?ids=${ids.join(',')}`),
  selection: (kind: string, id: string) =>
    get<{ chain: Chain; facts: Facts }>(`/span/selection?kind=${kind}&id=${encodeURIComponent(id)}`),
  capacity: () => get<CapacityView>('/capacity'),
  poolVolumes: (pool: string) =>
    get<{ pool: string; volumes: PoolCapacity['volumes'] }>(`/capacity?pool=${encodeURIComponent(pool)}`),
  fabric: (find = '') => get<{ items: FabricModel[] }>(`/fabric${find ? `?find=${encodeURIComponent(find)}` : ''}`),
  trace: (host: string, volume: string) =>
    get<Trace>(`/trace?host=${encodeURIComponent(host)}&volume=${encodeURIComponent(volume)}`),
  hostSheet: (host: string) => get<HostSheet>(`/host-sheet?host=${encodeURIComponent(host)}`),
  loginTest: (host: string, array: string, target: string) =>
    post<LoginTest>('/login-test', { host, array, ...(target ? { target } : {}) }),
  whatIf: (failed: readonly string[], find: string) =>
    get<WhatIf>(`/what-if?${failedQuery(failed)}&find=${encodeURIComponent(find)}`),
  topology: (query: string) => get<Topology>(`/topology${query ? `?${query}` : ''}`),
  merge: (a: string, b: string) => get<MergeAnswer>(`/merge?a=${encodeURIComponent(a)}&b=${encodeURIComponent(b)}`),
  load: () => get<LoadView>('/load'),
  loadFleet: (span: number) => get<FleetAnswer>(`/load/fleet?span=${span}`),
  loadOf: (of: string, span: number) => get<SubjectLoad>(`/load/subject?of=${encodeURIComponent(of)}&span=${span}`),
  loadWhy: (of: string, span: number, at: number | null) =>
    get<WhyAnswer>(`/load/why?of=${encodeURIComponent(of)}&span=${span}${at === null ? '' : `&at=${at}`}`),
  loadEffect: (question: EffectQuestion) => post<EffectAnswer>('/load/effect', question),
  loadProposal: (question: { x: string; y: string; targetS: number; seconds: number }) =>
    post<ProposalAnswer>('/load/propose', question),
  loadQueue: (question: QueueQuestion) => post<QueueAnswer>('/load/queue', question),
  loadRoom: (array: string) => get<RoomAnswer>(`/load/room?array=${encodeURIComponent(array)}`),
  arrays: () => get<{ items: { id: string; name: string }[] }>('/arrays'),
  moves: () => get<MovesAnswer>('/waves'),
  outside: () => get<OutsideAnswer>('/outside'),
  outsideLun: (id: string) => get<OutsideLunAnswer>(`/outside?of=${encodeURIComponent(id)}`),
  move: (id: string) => get<MoveAnswer>(`/waves?of=${encodeURIComponent(id)}`),
  classes: () => get<ClassesAnswer>('/classes'),
  consumer: (id: string) => get<ConsumerPage>(`/classes/consumer?of=${encodeURIComponent(id)}`),
  place: (question: PlaceQuestion) => post<PlacesAnswer>('/classes/place', question),
  loadHeat: () => get<{ items: HeatMap[]; policies: TierPolicyAnswer[] }>('/load/heat'),
  loadThings: () => get<LoadThings>('/load/things'),
  loadWhatIf: (question: LoadQuestion) => post<WhatIfAnswer>('/load/what-if', question),
  loadLimits: () => get<{ items: LimitRow[] }>('/load/limits'),
  targets: () => get<TargetView>('/targets'),
  importZoning: (text: string, signal?: AbortSignal) =>
    request<ImportReport>('POST', '/zoning/import', { body: { type: 'text/plain', text }, ...withSignal(signal) }),
  protection: () => get<ProtectionAnswer>('/protection'),
  elsewhere: () => get<ElsewhereAnswer>('/protection?elsewhere'),
  replicationPlan: (of: string, link: string) =>
    get<ReplicationPlan>(`/protection?plan=${encodeURIComponent(of)}&link=${encodeURIComponent(link)}`),
  planDay: (of: string, link: string, rpo: number) =>
    get<LineDay>(`/protection?${new URLSearchParams({ plan: of, link, rpo: String(rpo) })}`),
  replication: (id: string) => get<ReplicationView>(`/protection?replication=${encodeURIComponent(id)}`),
  protectionOf: (id: string) => get<SubjectAnswer>(`/protection?of=${encodeURIComponent(id)}`),
  restorePoint: (id: string, cut: string) =>
    get<PointView>(`/protection?of=${encodeURIComponent(id)}&cut=${encodeURIComponent(cut)}`),
  importTrace: (text: string, signal?: AbortSignal) =>
    request<ImportReport>('POST', '/load/import', { body: { type: 'text/plain', text }, ...withSignal(signal) }),
  importCalendar: (text: string, signal?: AbortSignal) =>
    request<ImportReport>('POST', '/protection/import', { body: { type: 'text/plain', text }, ...withSignal(signal) }),
  findings: ({ words = '', muted = false, each }: Partial<FindingsAsked>) =>
    get<FindingsView>(`/findings?${new URLSearchParams({ words, muted: muted ? '1' : '0', each: String(each ?? 0) })}`),
  search: (text: string) => get<{ items: Hit[] }>(`/search?q=${encodeURIComponent(text)}`),
  operations: () => get<{ items: { kind: string; verb: string; summary: string; form: FormSpec }[] }>('/operations'),
  form: (
    kind: string,
    params: Record<string, unknown>,
    lens: Record<string, unknown>,
    change: string | null,
    before?: number,
  ) => post<FormAnswer>('/form', { do: kind, params, lens, change, ...(before === undefined ? {} : { before }) }),
  /** The newest of all changes. */
  changes: (limit: number) => get<{ items: ChangeSummary[]; total: number }>(`/changes?limit=${limit}`),
  /** Those that are not over, however old. */
  openChanges: () => get<{ items: ChangeSummary[]; total: number }>('/changes?open=1&limit=1000'),
  change: (id: string) => get<ChangeView>(`/changes/${id}`),
  prepare: (title: string, operations: OperationDocument[]) => post<ChangeView>('/changes', { title, operations }),
  prepareFile: (yaml: string, signal?: AbortSignal) =>
    request<ChangeView>('POST', '/changes', { body: { type: 'application/yaml', text: yaml }, ...withSignal(signal) }),
  revise: (seen: Seen, revised: { title?: string; operations?: OperationDocument[] }) =>
    request<ChangeView>('PATCH', `/changes/${seen.id}`, { body: jsonBody(revised), seen }),
  discard: (seen: Seen) => request<void>('DELETE', `/changes/${seen.id}`, { seen }),
  tell: (seen: Seen, verb: 'run' | 'undo' | 'retry' | 'cancel') =>
    request<ChangeView>('POST', `/changes/${seen.id}/${verb}`, { seen }),
  approve: (seen: Seen, terms: object) =>
    request<ChangeView>('POST', `/changes/${seen.id}/approve`, { body: jsonBody(terms), seen }),
  begins: (begins: string, zone: string) =>
    get<{ at: number | null }>(`/schedule?${new URLSearchParams({ begins, zone })}`),
  second: (id: string, said: { by: string; plan: string }) => post<ChangeView>(`/changes/${id}/second`, said),
  withdraw: (id: string) => post<ChangeView>(`/changes/${id}/withdraw`),
  answer: (id: string, said: { by: string; yes: boolean; seen: string[] }) =>
    post<ChangeView>(`/changes/${id}/answer`, said),
  mail: () => get<{ items: MailRow[] }>('/mail'),
  again: (id: string) => post<ChangeView>(`/changes/${id}/again`),
  tray: () => get<{ change: ChangeView | null }>('/tray'),
  setTray: (change: string | null) =>
    request<{ change: ChangeView | null }>('PUT', '/tray', { body: jsonBody({ change }) }),
  importHosts: (csv: string, signal?: AbortSignal) =>
    request<ImportReport>('POST', '/hosts/import', { body: { type: 'text/csv', text: csv }, ...withSignal(signal) }),
  importEstate: (file: Blob, yaml: boolean, signal?: AbortSignal) =>
    request<{ rows: number }>('POST', '/estate', {
      body: { type: yaml ? 'application/yaml' : 'application/json', text: file },
      ...withSignal(signal),
    }),
  stock: (what: 'demo' | 'bare') => post<{ filled: string }>('/lab/stock', { what }),
  lab: () => get<LabView>('/lab'),
  clock: (speed: number) => post<{ now: number; speed: number }>('/lab/clock', { speed }),
  advance: (seconds: number) => post<{ now: number }>('/lab/advance', { seconds }),
  fault: (kind: string, component: string, clear: boolean) =>
    post<{ said: string }>('/lab/faults', { kind, component, clear }),
  deleteFiles: (host: string, device: string, size: string) =>
    post<{ deleted: string }>('/lab/files', { host, device, size }),
  file: (wish: { host: string; device: string; path: string; do: 'write' | 'delete'; size?: string }) =>
    post<{ said: string }>('/lab/file', wish),
  io: (wish: { host: string; device: string; kind: 'read' | 'write'; at: string; size: string }) =>
    post<{ said: string }>('/lab/io', wish),
  traffic: (host: string, device: string, rate: string) =>
    post<{ rate: string }>('/lab/traffic', { host, device, rate }),
};

/** What somebody asks a place for. */
export interface PlaceQuestion {
  size: string;
  iops: number;
  class?: string;
  rules: string[];
  replica: boolean;
  volumes: number;
  keeping: Keeping;
  hosts: string[];
}

/** Where it fits, pool by pool, and where several of it go. */
export type PlacesAnswer = PlaceAnswer & { several: SeveralAnswer | null };
