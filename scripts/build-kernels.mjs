// Compiles core/kernels/assembly to WebAssembly with SIMD and writes it as a module that needs no
// file access, so that browser, server, command line and tests load the same bytes in the same way.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const scratch = mkdtempSync(join(tmpdir(), 'kernels-'))
const wasm = join(scratch, 'kernels.wasm')
const asc = join(root, 'node_modules/assemblyscript/bin/asc.js')
execFileSync(
  process.execPath,
  [
    asc,
    'core/kernels/assembly/index.ts',
    '-o',
    wasm,
    '--runtime',
    'stub',
    '--enable',
    'simd',
    '-O3',
    '--noAssert',
    '--use',
    'abort=',
  ],
  { cwd: root, stdio: 'inherit' },
)
const base64 = readFileSync(wasm).toString('base64')
const target = join(root, 'core/kernels/wasm.generated.ts')
const text = `// Made by scripts/build-kernels.mjs from core/kernels/assembly. Not kept in git.\nexport const kernelsBase64 =\n  '${base64}'\n`
writeFileSync(`${target}.new`, text)
renameSync(`${target}.new`, target)
rmSync(scratch, { recursive: true })
console.log(`kernels: ${Math.round((base64.length * 3) / 4)} bytes`)
