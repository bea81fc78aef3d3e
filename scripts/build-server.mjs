// Builds what runs in Node into build-node, or the folder given: the web server, the worker and its threads, what brings the database up to date, the
// command line, what paints the demo film. From source they run as well (`--import tsx`), but start slowly: every module is compiled at each start.
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'

await build({
  absWorkingDir: fileURLToPath(new URL('..', import.meta.url)),
  entryPoints: {
    web: 'server/web.ts',
    supervise: 'server/supervise/main.ts',
    worker: 'server/worker.ts',
    migrate: 'server/migrate.ts',
    house: 'server/house/main.ts',
    people: 'server/access/people.ts',
    apartPicture: 'server/media/apartPicture.ts',
    'compute.thread': 'server/jobs/compute.thread.ts',
    cli: 'cli/main.ts',
    demo: 'demo/main.ts',
    paintShare: 'demo/paintShare.ts',
  },
  outdir: process.argv[2] ?? 'build-node',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  // The router's build stands beside this one and is loaded when the server starts, as packages are.
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
})
