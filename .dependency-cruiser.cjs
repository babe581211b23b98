/** Arrows run one way: app -> the server's types -> core; server -> core; cli -> core; demo -> core. */
module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'core-stands-alone', severity: 'error', from: { path: '^core/' }, to: { path: '^(app|server|cli|demo|modules|scripts)/' } },
    {
      name: 'core-folders-by-their-door',
      severity: 'error',
      comment: 'A folder of core/ is entered by its index.ts only.',
      from: { path: '^core/([^/]+)/' },
      to: { path: '^core/([^/]+)/', pathNot: ['^core/$1/', '^core/[^/]+/index\\.ts$'] },
    },
    {
      name: 'core-by-its-doors',
      severity: 'error',
      from: { path: '^(app|server|cli|demo)/' },
      to: { path: '^core/', pathNot: ['^core/index\\.ts$', '^core/[^/]+/index\\.ts$'] },
    },
    { name: 'server-not-to-app', severity: 'error', from: { path: '^server/' }, to: { path: '^(app|cli)/' } },
    // The folders of server/ in layers (drawn in docs/developing.md); each imports only from the layers below it.
    { name: 'platform-stands-alone', severity: 'error', from: { path: '^server/platform/' }, to: { path: '^server/(?!platform/)' } },
    {
      name: 'db-on-platform',
      severity: 'error',
      from: { path: '^server/db/' },
      to: { path: '^server/(?!platform/|db/)', dependencyTypesNot: ['type-only'] },
    },
    { name: 'access-on-db', severity: 'error', from: { path: '^server/access/' }, to: { path: '^server/(?!platform/|db/|access/)' } },
    {
      name: 'record-on-access',
      severity: 'error',
      from: { path: '^server/audit/record' },
      to: { path: '^server/(?!platform/|db/|access/|audit/)' },
    },
    {
      name: 'policy-on-audit',
      severity: 'error',
      from: { path: '^server/policy/' },
      to: { path: '^server/(?!platform/|db/|access/|audit/record|jobs/|policy/|workers/)' },
    },
    { name: 'jobs-on-access', severity: 'error', from: { path: '^server/jobs/' }, to: { path: '^server/(?!platform/|db/|access/|jobs/)' } },
    {
      name: 'verification-on-policy',
      severity: 'error',
      from: { path: '^server/verification/' },
      to: { path: '^server/(?!platform/|db/|access/|policy/|verification/|workers/)' },
    },
    {
      name: 'mail-on-policy',
      severity: 'error',
      from: { path: '^server/(intake|copies|impact|suggestions|requests|retention|dry-run)/' },
      to: { path: '^server/(users|review|smtp|demo|api)/|^server/audit/(?!record)' },
    },
    {
      name: 'review-on-mail',
      severity: 'error',
      from: { path: '^server/review/' },
      to: { path: '^server/(users|smtp|demo|api)/|^server/audit/(?!record)' },
    },
    {
      name: 'users-on-policy',
      severity: 'error',
      from: { path: '^server/users/' },
      to: { path: '^server/(intake|copies|impact|suggestions|requests|retention|dry-run|smtp|demo|api)/|^server/audit/(?!record)' },
    },
    {
      name: 'app-only-types-of-server',
      severity: 'error',
      from: { path: '^app/' },
      to: { path: '^server/', dependencyTypesNot: ['type-only'] },
    },
    { name: 'app-fetches-by-its-client', severity: 'error', from: { path: '^app/', pathNot: '^app/api/' }, to: { path: '^server/' } },
    { name: 'cli-only-core', severity: 'error', from: { path: '^cli/' }, to: { path: '^(app|server|demo)/' } },
    { name: 'demo-only-core', severity: 'error', from: { path: '^demo/' }, to: { path: '^(app|server|cli)/' } },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.depcruise.json' },
    doNotFollow: { path: 'node_modules' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default', 'types'] },
  },
}
