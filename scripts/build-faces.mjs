// Copies what finds faces to where browser, server and tests read it: two networks with their weights, and what runs them. The packages are frozen;
// a file that is not the one that was measured with is refused.
import { createHash } from 'node:crypto'
import { copyFileSync, mkdirSync, readFileSync, renameSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const FILES = [
  [
    '@vladmandic/human/models/blazeface.json',
    'cd7bbfc078270572beb39f9e5ae67aadbd50b5e67cff37e6d4f6b3ea39312e5f',
  ],
  [
    '@vladmandic/human/models/blazeface.bin',
    'dc9a97fdc50bc43216554bdd69aa3e7b9361a519ee7bdd996a2f69a98a6f9b72',
  ],
  [
    '@vladmandic/human/models/facemesh.json',
    'b60ca26f404724f43bd2b1575761d8265180e1f053cc0731caa68462927309e7',
  ],
  [
    '@vladmandic/human/models/facemesh.bin',
    '3826da640b0a3021161605369ee6af293f75d518040355b960ec71a3390c1c0b',
  ],
  [
    '@tensorflow/tfjs-backend-wasm/dist/tfjs-backend-wasm-simd.wasm',
    '77ebb28a6d34f371dbbf2086b7f2de8994acd8ea5a3cf1fa24d2c26c840cac7b',
  ],
]

const root = fileURLToPath(new URL('..', import.meta.url))
const target = join(root, 'public/faces')
mkdirSync(target, { recursive: true })
for (const [file, expected] of FILES) {
  const from = join(root, 'node_modules', file)
  const found = createHash('sha256').update(readFileSync(from)).digest('hex')
  if (found !== expected) throw new Error(`${file} is not the one that is known: its SHA-256 is ${found}.`)
  const to = join(target, file.slice(file.lastIndexOf('/') + 1))
  copyFileSync(from, `${to}.new`)
  renameSync(`${to}.new`, to)
}
console.log(`faces: ${FILES.length} files`)
