import { kinds } from '@/core/estate/entities';
import { spans } from '@/core/performance/answers';
import { collectionPath } from './collections';
import { get, jsonBody, ok, path, post, problems, query, ref } from './openapi-parts';

const ifMatch = {
  name: 'If-Match',
  in: 'header',
  schema: { type: 'string' },
  description: 'The ETag of the draft that was looked at; one that is another by now answers 412, with what changed',
};
const verbs = {
  run: 'Run a draft',
  undo: 'Take a change back: asked of the rules and the devices as strictly as it was done',
  retry: 'Go on with a stopped change',
  cancel: 'Stop a change that runs',
  again: 'Lay the operations of a change once more as a draft',
  withdraw: 'Take an approval back: the change is a draft again',
};

/** What can be asked of the API, path by path. */
export function paths(): object {
  const id = path('id');
  return {
    '/health': {
      get: {
        summary: 'Whether everything goes on',
        responses: {
          '200': ok('It does', ref('Health')),
          '503': ok('Something does not; troubles say what, and what to do', ref('Health')),
          ...problems,
        },
      },
    },
    '/token': {
      post: {
        summary: 'What the page sends that asks for the token of the server; scripts send it as a bearer',
        security: [],
        requestBody: {
          required: true,
          content: {
            'application/x-www-form-urlencoded': {
              schema: { type: 'object', properties: { token: { type: 'string' } } },
            },
          },
        },
        responses: { '303': { description: 'Back to the page, with a cookie where it was right' }, ...problems },
      },
    },
    '/estate': {
      ...get('The whole estate as one document', [query('format', 'yaml or json')]),
      post: {
        summary:
          'Take a whole estate into an empty instance, read as it comes in, wholly or not at all; events tell how far it is',
        requestBody: {
          required: true,
          content: { 'application/json': { schema: ref('Estate') }, 'application/yaml': { schema: ref('Estate') } },
        },
        responses: { '201': ok('Taken'), ...problems },
      },
    },
    ...Object.fromEntries<object>(
      kinds.flatMap((kind): [string, object][] => [
        [
          `/${collectionPath(kind)}`,
          {
            get: {
              summary: `List ${collectionPath(kind)}; any field filters`,
              parameters: [query('limit', 'at most 1000'), query('offset', 'how many to leave out')],
              responses: {
                '200': ok('A page', {
                  type: 'object',
                  properties: { total: { type: 'integer' }, items: { type: 'array', items: ref(kind) } },
                }),
                ...problems,
              },
            },
          },
        ],
        [
          `/${collectionPath(kind)}/{key}`,
          {
            get: {
              summary: `One of ${collectionPath(kind)} by id or name`,
              parameters: [path('key')],
              responses: { '200': ok('The row', ref(kind)), ...problems },
            },
          },
        ],
      ]),
    ),
    '/paths': get('Paths between a host and a volume, found and missing', [
      query('host', 'name or id'),
      query('volume', 'name, array/name or id'),
    ]),
    '/trace': get('The chain between a host and a volume, hop by hop, with the first break and its mend', [
      query('host', 'name or id'),
      query('volume', 'name, array/name or id'),
    ]),
    '/fabric': get('Fabrics with switches, logins, zones, and who meets whom', [
      query('find', 'words of the initiators and zones that are listed'),
      query('limit', 'most of them a fabric, 120 unless said'),
    ]),
    '/capacity': get('How full everything is, what can be had back, and how long it lasts', [
      query('pool', 'id of a pool: its volumes alone'),
    ]),
    '/capacity/csv': get('A table of it as CSV', [
      query('table', 'arrays, sites, pools, volumes, workloads, media, reclaimable, runways or history'),
    ]),
    '/history': get('Usage day by day', [
      query('of', 'id of a pool or volume'),
      query('sum', 'pools or volumes, all together'),
      query('days', 'how many, 120 unless said'),
    ]),
    '/protection': get('Workloads as lanes of time, and plans; with of, one with its restore points', [
      query('of', 'id of a workload or volume'),
      query('cut', 'id of one of its cuts: what going back would drop and bring, and its files'),
      query('elsewhere', 'instead: replications to other sites and the links they use'),
      query('plan', 'instead: which recovery points a line holds for a workload, by its id'),
      query('link', 'with plan: the id of the line'),
      query(
        'rpo',
        'with plan: how it and all others on the line fare in its scarcest day, at this recovery point in milliseconds',
      ),
      query('replication', 'instead: one replication by its id, with its cycles'),
    ]),
    '/protection/import': {
      post: {
        summary: 'Turn the schedules of a calendar (iCalendar) into plans, with a report an event',
        requestBody: { required: true, content: { 'text/plain': { schema: { type: 'string' } } } },
        responses: { '201': ok('The report'), ...problems },
      },
    },
    '/protection/report': get('The report of a drill, or of what the loss of a site would leave, as Markdown', [
      query('drill', 'its id'),
      query('site', 'instead: the name of a site'),
    ]),
    '/protection/calendar': get('The schedules of all plans as iCalendar'),
    '/load/fleet': get('What needs somebody, and what every volume, workload, array and host asked and got', [
      query('span', `how far back, seconds: ${spans.join(', ')}; a day unless said`),
      query('until', 'its end, milliseconds of the lab; now unless said'),
    ]),
    '/load/subject': get('A volume, workload, array or host over a span, as points of a chart', [
      query('of', 'its id'),
      query('span', 'how far back, seconds'),
    ]),
    '/load/csv': get('The same points as CSV', [query('of', 'its id'), query('span', 'how far back, seconds')]),
    '/load/why': get('Why a volume waited: what bound it, and what each neighbour added', [
      query('of', 'its id'),
      query('span', 'within which its worst moment is looked for'),
      query('at', 'or the moment, milliseconds of the lab'),
    ]),
    '/load/effect': post('What a span would have been, had a volume been limited so', ref('EffectBody')),
    '/load/propose': post('The limit on one volume that keeps another in time', ref('ProposeBody')),
    '/load/queue': post(
      'The queue at which one volume waits beside another under a limit, to be simulated',
      ref('QueueBody'),
    ),
    '/load/simulate': post(
      'Every I/O by itself where a volume waits, by profiles or as a trace has it',
      ref('SimulateBody'),
    ),
    '/load/what-if': post(
      'What the load would be, were something lost, a workload larger, a volume in another pool',
      ref('WhatIfLoadBody'),
    ),
    '/load/room': get('What each resource of an array has left, with one thing lost', [
      query('array', 'its id; links for those between switches and sites'),
    ]),
    '/load/heat': get(
      'Where the heat of pools of several classes of media lies, what placing by heat would gain, and the tier policies',
    ),
    '/waves': get('Moves with their waves, what bounds them, and what a person is asked; one of them closely', [
      query('of', 'the id of a move'),
    ]),
    '/outside': get('Outside arrays and the LUNs of them that were found; one of them closely, with its way in', [
      query('of', 'the id of an outside LUN'),
    ]),
    '/classes': get('Service classes with who fits and who fell out, and every key that rules can ask for'),
    '/classes/consumer': get('What one consumer was given and took', [query('of', 'the id of an allotment')]),
    '/classes/place': post('Where something fits best, rule by rule, and why the others do not fit', ref('PlaceBody')),
    '/load/limits': get('Every limit, on whom it is put, and how much it holds back'),
    '/load/import': {
      post: {
        summary: 'Turn a trace of block I/O, or measured rates, into what is known of volumes, with a report a line',
        requestBody: { required: true, content: { 'text/plain': { schema: { type: 'string' } } } },
        responses: { '201': ok('The report'), ...problems },
      },
    },
    '/findings': get('What is wrong or risky, with what would mend it, and how many of each', [
      query('format', 'csv for a table'),
      query('words', 'only those with these words'),
      query('muted', '0 without those that are muted'),
      query('each', 'at most so many of one check; 0 for the counts alone'),
    ]),
    '/host-sheet': get('Devices, paths, sessions, discovery and path events of one host', [query('host', 'its name')]),
    '/login-test': post('Run the login of a host at an array, with the log of both sides', ref('LoginTestBody')),
    '/what-if': get('Who loses what when components fail, points of failure and the worst pairs', [
      query('failed', 'a component by id or name; may be given several times'),
      query('find', 'words of the components that are listed'),
      query('format', 'markdown for a report that can be sent round'),
    ]),
    '/topology': get('Hosts, switches, networks and arrays, and what joins them', [
      query('format', 'graphml for a file'),
      query('failed', 'components to be marked, with whom they hurt'),
      query('host', 'with volume: the way between the two is marked'),
      query('volume', 'as array/name'),
    ]),
    '/merge': get('What would happen if a link joined two fabrics', [
      query('a', 'one fabric'),
      query('b', 'the other'),
    ]),
    '/load': get('Load of array ports and of links between switches'),
    '/targets': get('iSCSI targets, NVMe subsystems, networks and the name service'),
    '/zoning': get('Aliases and zones as they are defined', [
      query('fabric', 'only of this one'),
      query('format', 'csv or json'),
    ]),
    '/zoning/import': {
      post: {
        summary: 'Turn aliases and zones from CSV or JSON into a change, with a report a line',
        requestBody: { required: true, content: { 'text/plain': { schema: { type: 'string' } } } },
        responses: { '201': ok('The report'), ...problems },
      },
    },
    '/operations': get('The operations there are, with their parameters'),
    '/preview': post('What operations would do, without keeping anything', ref('PreviewBody')),
    '/form': post('What the estate says to an operation that is being filled in', ref('FormBody')),
    '/changes': {
      ...get('Changes, newest first', [
        query('open', '1 for those that are not over'),
        query('limit', 'how many, 100 unless said, 1000 at the most'),
        query('offset', 'how many newer ones are passed over'),
      ]),
      post: {
        summary: 'Prepare a change',
        requestBody: {
          required: true,
          content: {
            'application/json': { schema: ref('ChangeBody') },
            'application/yaml': { schema: ref('ChangeFile') },
          },
        },
        responses: { '201': ok('Prepared, with its preview or what is refused'), ...problems },
      },
    },
    '/changes/{id}/approve': post('Let a draft run by itself within a window', ref('ApproveBody'), '202', [
      id,
      ifMatch,
    ]),
    '/changes/{id}/second': post('Approve what somebody else did, as a second person', ref('SecondBody'), '202', [id]),
    '/changes/{id}/answer': post('Say yes or no to what comes next', ref('AnswerBody'), '202', [id]),
    '/schedule': get('When something begins that is to begin on a day or with a rhythm', [
      query('begins', '2031-05-02 22:30, SU 02:00, month 1 22:00, or a rule'),
      query('zone', 'the clock by which it begins'),
    ]),
    '/changes/calendar': get('When approved changes begin, as iCalendar'),
    '/mail': get('What would have been sent to somebody, newest first'),
    '/changes/{id}': {
      ...get('One change with preview, steps and log', [id, query('format', 'yaml gives the change file')]),
      patch: {
        summary: 'Revise a draft',
        parameters: [id, ifMatch],
        requestBody: jsonBody(ref('ReviseBody')),
        responses: { '200': ok('Revised'), ...problems },
      },
      delete: {
        summary: 'Put a draft away for good',
        parameters: [id, ifMatch],
        responses: { '204': ok('Gone'), ...problems },
      },
    },
    ...Object.fromEntries(
      Object.entries(verbs).map(([verb, summary]) => [
        `/changes/{id}/${verb}`,
        post(summary, null, verb === 'again' ? '201' : '202', [id, ifMatch]),
      ]),
    ),
    '/tray': {
      ...get('The change under preparation'),
      put: {
        summary: 'Lay a change into the tray, or none',
        requestBody: jsonBody(ref('TrayBody')),
        responses: { '200': ok('The tray'), ...problems },
      },
    },
    '/hosts/import': {
      post: {
        summary: 'Turn a list of hosts into a change, with a report a line',
        requestBody: { required: true, content: { 'text/csv': { schema: { type: 'string' } } } },
        responses: { '201': ok('The report'), ...problems },
      },
    },
    '/lab': get('Clock, jobs, faults and what can be broken'),
    '/lab/clock': post('Set the clock’s speed', ref('ClockBody')),
    '/lab/advance': post('Let simulated time pass at once', ref('AdvanceBody')),
    '/lab/faults': { ...get('What is broken'), ...post('Break or mend a component', ref('FaultBody')) },
    '/lab/traffic': post('Set how fast a host writes to a device', ref('TrafficBody')),
    '/lab/io': post('Let a host read or write once, at an offset of a device', ref('IoBody')),
    '/lab/file': post('Let a host write or delete a named file', ref('FileBody')),
    '/lab/files': post('Let a host delete files', ref('DeleteFilesBody')),
    '/lab/content': post('Set what hosts write to a volume', ref('ContentBody')),
    '/lab/stock': post('Fill an empty instance with the demo or its bare machines', ref('StockBody'), '201'),
    '/span': get('Everything the Span view draws'),
    '/span/sight': get('What the Span view draws first; its long lists are packed column by column'),
    '/span/storeys/{array}': get('All that stands on one array, by its id or name; its long lists are packed', [
      path('array'),
    ]),
    '/span/hosts': get('Hosts with their ports', [query('ids', 'ids of at most 200 hosts, by commas')]),
    '/span/selection': get('The chain and the facts of one thing', [query('kind', 'its kind'), query('id', 'its id')]),
    '/search': get('Find by name, IQN, NAA name, serial, address or slot', [query('q', 'what to find')]),
    '/events': {
      get: {
        summary: 'Commits, job progress, clock, changes, troubles and long work as server-sent events',
        responses: { '200': { description: 'A stream', content: { 'text/event-stream': {} } } },
      },
    },
    '/openapi.json': get('This description'),
  };
}
