/**
 * The rooms of the code and which may know which. Rooms of the core lie in layers: a room
 * knows only layers above its own, and never a neighbour.
 */
const LAYERS = [
  ['quantity'],
  ['bytes'],
  ['medium', 'tables', 'filesystems'],
  ['layout'],
  ['placement', 'survey'],
  ['naming'],
  ['compose', 'findings'],
  ['advice', 'change', 'handover'],
];

const notAllowed = (name, from, to) => ({
  name,
  severity: 'error',
  from: { path: from, pathNot: '\\.test\\.tsx?$' },
  to: { path: to },
});

const layerRules = LAYERS.flatMap((rooms, depth) =>
  rooms.map((room) => {
    const below = LAYERS.slice(depth)
      .flat()
      .filter((other) => other !== room);
    return notAllowed(`core-${room}-knows-only-above`, `^src/core/${room}/`, `^src/core/(${below.join('|')})/`);
  }),
);

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-orphans',
      severity: 'error',
      from: { orphan: true, path: '^src/', pathNot: ['^src/app/', '\\.d\\.ts$'] },
      to: {},
    },
    ...layerRules,
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      // Libraries that know neither Node nor a browser.
      to: { pathNot: ['^src/core/', '^node_modules/(zod|jsonc-parser|fastest-levenshtein|@noble/hashes)/'] },
    },
    {
      // A page loads no validation: only the document knows the shapes of contents, others their types.
      name: 'shapes-stay-with-the-document',
      severity: 'error',
      from: {
        path: '^src/',
        pathNot: [
          '\\.test\\.tsx?$',
          '^src/core/filesystems/shapes\\.ts$',
          '^src/core/layout/document\\.ts$',
          '^src/core/filesystems/[a-z]+/shape\\.ts$',
        ],
      },
      to: { path: '^src/core/filesystems/[a-z]+/shape\\.ts$', dependencyTypesNot: ['type-only'] },
    },
    notAllowed('contract-knows-core', '^src/contract/', '^src/(files|keeping|server|ui|app|workers|cli)/'),
    notAllowed('files-know-core', '^src/files/', '^src/(keeping|server|ui|app|workers|cli)/'),
    notAllowed('keeping-knows-files-and-core', '^src/keeping/', '^src/(server|ui|app|workers|cli)/'),
    notAllowed('terminal-knows-files-and-core', '^src/cli/', '^src/(server|ui|app|workers|contract)/'),
    notAllowed('ui-knows-core', '^src/ui/', '^src/(files|keeping|server|app|cli)/'),
    // The designer's rooms: its state knows no panel, bar or key; those do not know each other.
    notAllowed('designer-state-knows-no-part', '^src/ui/designer/state/', '^src/ui/designer/(panels|bars|keys)/'),
    notAllowed('designer-panels-know-state', '^src/ui/designer/panels/', '^src/ui/designer/(bars|keys)/'),
    notAllowed('designer-bars-know-state', '^src/ui/designer/bars/', '^src/ui/designer/(panels|keys)/'),
    notAllowed('designer-keys-know-state', '^src/ui/designer/keys/', '^src/ui/designer/(panels|bars)/'),
    notAllowed('kit-knows-no-screen', '^src/ui/kit/', '^src/ui/(?!kit/)'),
    notAllowed('workers-know-core', '^src/workers/', '^src/(files|keeping|server|ui|app|cli)/'),
    notAllowed('server-knows-files-and-core', '^src/server/', '^src/(ui|app|workers|cli)/'),
    notAllowed('app-knows-no-files', '^src/app/', '^src/(files|keeping|cli)/'),
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
