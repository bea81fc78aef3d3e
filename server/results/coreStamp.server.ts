/** What the core is, in a short name: what was gathered by another one is not used. */
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

let stamp: string | undefined

export function coreStamp(): string {
  if (stamp) return stamp
  const hash = createHash('sha256')
  const folder = join(process.cwd(), 'core')
  const names = readdirSync(folder, { recursive: true, encoding: 'utf8' })
  for (const name of names.filter((one) => one.endsWith('.ts') && !one.endsWith('.test.ts')).sort()) {
    hash.update(name).update(readFileSync(join(folder, name)))
  }
  return (stamp = hash.digest('hex').slice(0, 16))
}
