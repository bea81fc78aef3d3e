import { execFileSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { join } from 'node:path'

/** Programs that run in Node, built for one file of tests; of what stands in the source now. */
export function buildPrograms(): { path(name: 'worker' | 'cli' | 'paintShare'): string; remove(): void } {
  const folder = join('build-node', `tests-${process.pid}`)
  execFileSync(process.execPath, ['scripts/build-server.mjs', folder])
  return {
    path: (name) => join(folder, `${name}.mjs`),
    remove: () => rmSync(folder, { recursive: true }),
  }
}
