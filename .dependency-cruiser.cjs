/** Who may import whom; see docs/architecture.md. */

/** Folders of the core from the ground up, each with those that it may import; what is not said is forbidden. Tests may import any. */
const core = {
  units: [],
  linear: [],
  jobs: [],
  board: [],
  'own-lines': ['board'],
  findings: ['units'],
  rig: ['findings', 'linear'],
  transmissions: ['linear', 'units', 'findings', 'rig'],
  mechanism: ['linear', 'units', 'findings', 'rig'],
  admit: ['findings', 'rig', 'transmissions', 'mechanism'],
  contract: ['own-lines', 'findings', 'rig'],
  motion: ['mechanism'],
  recording: ['units', 'mechanism', 'contract', 'motion'],
  kinematics: ['linear', 'units', 'findings', 'rig', 'mechanism', 'motion'],
  contact: ['linear', 'units', 'jobs', 'rig', 'mechanism', 'motion', 'kinematics'],
  actuators: ['units', 'board', 'rig', 'transmissions', 'mechanism'],
  loads: [
    ...['linear', 'units', 'jobs', 'findings', 'rig', 'transmissions', 'mechanism', 'motion', 'kinematics'],
    ...['actuators'],
  ],
  reach: ['linear', 'units', 'jobs', 'findings', 'rig', 'mechanism', 'kinematics', 'contact', 'loads'],
  commands: ['units', 'board', 'own-lines', 'rig', 'mechanism', 'motion', 'actuators', 'contract'],
  calibration: ['linear', 'findings', 'rig', 'mechanism', 'kinematics', 'actuators'],
  wiring: ['findings', 'rig', 'mechanism', 'actuators'],
  'bring-up': ['units', 'board', 'findings', 'rig', 'mechanism', 'motion', 'actuators', 'calibration', 'wiring'],
  presets: ['rig', 'admit', 'actuators', 'wiring'],
  routine: [
    ...[
      'linear',
      'units',
      'board',
      'own-lines',
      'jobs',
      'findings',
      'rig',
      'contract',
      'mechanism',
      'kinematics',
      'motion',
      'contact',
    ],
    ...['actuators', 'loads', 'commands', 'wiring', 'bring-up'],
  ],
  firmware: [
    ...['linear', 'units', 'board', 'rig', 'mechanism', 'kinematics', 'motion', 'actuators'],
    ...['commands', 'bring-up', 'calibration', 'routine'],
  ],
  drawing: ['linear', 'units', 'rig', 'mechanism', 'kinematics', 'reach', 'presets'],
  exports: [
    ...['findings', 'rig', 'admit', 'mechanism', 'motion', 'kinematics', 'actuators', 'commands', 'routine'],
    ...['units', 'drawing', 'firmware', 'wiring'],
  ],
  imports: ['linear', 'units', 'findings', 'rig', 'mechanism', 'reach', 'routine'],
  catalogue: [
    ...['findings', 'rig', 'transmissions', 'mechanism', 'contract', 'kinematics', 'reach', 'calibration', 'wiring'],
    ...['bring-up', 'routine', 'exports', 'imports'],
  ],
};
const folders = Object.keys(core);
const oneOf = (names) => `^core/src/(${names.join('|')})/`;

module.exports = {
  forbidden: [
    { name: 'folders-known', severity: 'error', from: { path: '^core/src/', pathNot: oneOf(folders) }, to: {} },
    ...folders.map((folder) => ({
      name: `core-${folder}`,
      severity: 'error',
      from: { path: oneOf([folder]), pathNot: '\\.testkit\\.ts$' },
      to: { path: '^core/src/', pathNot: oneOf([folder, ...core[folder]]) },
    })),
    // The order is one: no folder imports one that stands further down, however the lists are changed.
    ...folders.flatMap((folder, k) => {
      const early = core[folder].filter((other) => folders.indexOf(other) >= k);
      return early.length ? [{ name: `core-order-${folder}`, severity: 'error', from: {}, to: {} }] : [];
    }),
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-imports-itself',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test(kit)?\\.ts$' },
      to: { pathNot: ['^core/src', 'node_modules/(zod|papaparse)'] },
    },
    { name: 'web-not-server', severity: 'error', from: { path: '^web/src' }, to: { path: '^(server|demo)/' } },
    { name: 'server-not-web', severity: 'error', from: { path: '^server/src' }, to: { path: '^web/' } },
    {
      name: 'stations-apart',
      severity: 'error',
      from: { path: '^web/src/stations/([^/]+)/' },
      to: { path: '^web/src/stations/', pathNot: '^web/src/stations/$1/' },
    },
    {
      name: 'demo-imports-core',
      severity: 'error',
      from: { path: '^demo/', pathNot: '\\.test\\.ts$' },
      to: { path: '^(web|server)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.vue', '.mjs', '.js'],
    },
    exclude: { path: '\\.test\\.ts$' },
  },
};
