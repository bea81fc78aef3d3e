/** Imports point one way: core ← workers ← workbench, server ← app; cli ← server, core. */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'

const MAY_IMPORT: Readonly<Record<string, readonly string[]>> = {
  core: ['core'],
  workers: ['workers', 'core'],
  workbench: ['workbench', 'workers', 'core'],
  server: ['server', 'workers', 'core', 'demo'],
  app: ['app', 'workbench', 'server', 'core'],
  cli: ['cli', 'server', 'workers', 'core'],
  demo: ['demo', 'core'],
}
/** Within core, from the ground up. */
const CORE_LAYERS = [
  ['kernels'],
  ['image', 'geometry', 'colour'],
  ['shot', 'matte', 'motion', 'measure', 'view'],
  ['finish', 'plate', 'scene', 'survey', 'mark', 'fill'],
  ['document'],
  ['plan'],
  ['evaluate', 'snags'],
  ['jobs', 'sphere', 'proof'],
]
const CORE_PACKAGES = ['zod', 'papaparse', 'fast-deep-equal', 'flatbush', 'hash-wasm', 'lru-cache']

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '*.ts', '*.tsx'], {
  encoding: 'utf8',
})
  .split('\n')
  .filter((file) => file && !/\.test\.tsx?$|^tests\/|assembly\//.test(file))
const importsOf = (file: string) =>
  [...readFileSync(file, 'utf8').matchAll(/(?:\bfrom\s+|\bimport\s+|\bimport\s*\(\s*)'([^'\n]+)'/g)].map(
    (match) => match[1]!,
  )
const layerOf = (path: string) => CORE_LAYERS.findIndex((layer) => layer.includes(path.split('/')[1]!))

const edges = files.flatMap((file) =>
  importsOf(file).map((to) => ({
    file,
    to: to.startsWith('.') ? normalize(join(dirname(file), to)) : to,
    isOwn: to.startsWith('.'),
  })),
)

test('folders import only what lies below them', () => {
  const wrong = edges.filter(({ file, to, isOwn }) => {
    const allowed = MAY_IMPORT[file.split('/')[0]!]
    return (
      isOwn &&
      allowed &&
      !to.startsWith('..') &&
      !to.includes('+types') &&
      to.includes('/') &&
      !allowed.includes(to.split('/')[0]!)
    )
  })
  expect(wrong).toEqual([])
  expect(edges.length).toBeGreaterThan(200)
})

test('core imports nothing but itself and pure packages, layer by layer', () => {
  const wrong = edges.filter(({ file, to, isOwn }) => {
    if (!file.startsWith('core/')) return false
    if (!isOwn) return !CORE_PACKAGES.includes(to)
    return layerOf(to) >= 0 && layerOf(file) >= 0 && layerOf(to) > layerOf(file)
  })
  expect(wrong).toEqual([])
})

test('only routes and server code reach the server, and what they reach never gets to a browser', () => {
  const wrong = edges.filter(
    ({ file, to, isOwn }) =>
      isOwn && file.startsWith('app/') && to.startsWith('server/') && !/\.server$|\/formats$/.test(to),
  )
  expect(wrong).toEqual([])
})

test('no file of core comes back to itself through what it imports', () => {
  const inCore = edges.filter(({ file, isOwn }) => isOwn && file.startsWith('core/'))
  const importedBy = new Map<string, string[]>()
  for (const { file, to } of inCore) importedBy.set(file, [...(importedBy.get(file) ?? []), to])
  const circles: string[] = []
  const done = new Set<string>()
  const visit = (file: string, path: readonly string[]) => {
    if (path.includes(file)) return void circles.push([...path.slice(path.indexOf(file)), file].join(' → '))
    if (done.has(file)) return
    for (const to of importedBy.get(file) ?? []) visit(`${to}.ts`, [...path, file])
    done.add(file)
  }
  for (const file of importedBy.keys()) visit(file, [])
  expect(circles).toEqual([])
})
