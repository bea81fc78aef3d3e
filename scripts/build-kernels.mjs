// Compiles core/kernels/assembly to WebAssembly with SIMD and writes it as a module that needs no
// file access, so that browser, server, command line and tests load the same bytes in the same way.
// The signatures of what it exports come from the compiler, so that they cannot differ from the assembly.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const scratch = mkdtempSync(join(tmpdir(), 'kernels-'))
const wasm = join(scratch, 'kernels.wasm')
const asc = join(root, 'node_modules/assemblyscript/bin/asc.js')
const flags = ['--runtime', 'stub', '--enable', 'simd', '-O3', '--noAssert', '--use', 'abort=']
execFileSync(
  process.execPath,
  [asc, 'core/kernels/assembly/index.ts', '-o', wasm, ...flags, '--bindings', 'raw'],
  { cwd: root, stdio: 'inherit' },
)
const binary = readFileSync(wasm)
const declared = readFileSync(join(scratch, 'kernels.d.ts'), 'utf8')
const signatures = [...declared.matchAll(/export function (\w+\([^)]*\): \w+);/g)].map((match) => match[1])
const text = `// Made by scripts/build-kernels.mjs from core/kernels/assembly. Not kept in git.

/** What the compiled module offers. Pointers are byte offsets into its memory; see \`assembly/\`. */
export interface KernelExports {
  readonly memory: WebAssembly.Memory
${signatures.map((signature) => `  ${signature}`).join('\n')}
}

export const kernelsBase64 =
  '${binary.toString('base64')}'
`
const target = join(root, 'core/kernels/wasm.generated.ts')
writeFileSync(`${target}.new`, text)
renameSync(`${target}.new`, target)
rmSync(scratch, { recursive: true })
console.log(`kernels: ${binary.length} bytes, ${signatures.length} functions`)
