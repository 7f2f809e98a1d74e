/** Tests and what they share may know every room. */
const TESTS = '\\.(test|fixture)\\.ts$';
/** Arrows run downward only: app → ui, server → store, devices, formats → core. */
const only = (name, from, to) => ({ name, severity: 'error', from: { path: from }, to: { path: to } });
const noCoreRoom = (room, ...allowed) => ({
  name: `core-${room}-depends-on-lower-rooms-only`,
  severity: 'error',
  from: { path: `^src/core/${room}/`, pathNot: TESTS },
  to: { path: '^src/core/', pathNot: `^src/core/(${[room, ...allowed].join('|')})/` },
});

/** From the lowest up: a room knows those before it. */
const coreRooms = [
  'units',
  'load',
  'qos',
  'tier',
  'classes',
  'place',
  'runs',
  'schedule',
  'kinds',
  'stretch',
  'estate',
  'content',
  'naming',
  'network',
  'operation',
  'job',
  'fabric',
  'raid',
  'drive',
  'pool',
  'copies',
  'volume',
  'demand',
  'tiering',
  'work',
  'iscsi',
  'nvme',
  'attach',
  'protect',
  'move',
  'replicate',
  'performance',
  'service',
  'moving',
  'outside',
  'machine',
  'zoning',
  'target',
  'rules',
  'whatif',
  'trace',
  'lab',
  'space',
  'check',
  'span',
];

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    only('core-stands-alone', '^src/core/', '^src/(?!core/)'),
    {
      name: 'core-without-machine',
      severity: 'error',
      from: { path: '^src/core/', pathNot: TESTS },
      to: {
        dependencyTypes: ['core', 'npm'],
        pathNot: '^node_modules/(zod|@noble/hashes|ipaddr\\.js|temporal-polyfill)/|^zod$',
      },
    },
    {
      name: 'fixtures-are-for-tests',
      severity: 'error',
      from: { path: '^src/', pathNot: TESTS },
      to: { path: '\\.fixture\\.ts$' },
    },
    only('devices-know-core-only', '^src/devices/', '^src/(?!core/|devices/)'),
    only('formats-know-core-only', '^src/formats/', '^src/(?!core/|formats/)'),
    only('store-knows-core-only', '^src/store/', '^src/(?!core/|store/)'),
    only('server-not-upward', '^src/server/', '^src/(app|ui)/'),
    only('ui-not-server', '^src/ui/', '^src/(app|server|store|devices)/'),
    ...coreRooms.map((room, k) => noCoreRoom(room, ...coreRooms.slice(0, k))),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
