import { kernelsBase64, type KernelExports } from './wasm.generated'

function instantiate(): KernelExports {
  const binary = atob(kernelsBase64)
  const bytes = new Uint8Array(binary.length)
  for (let i = 0; i < binary.length; i++) bytes[i] = binary.charCodeAt(i)
  const instance = new WebAssembly.Instance(new WebAssembly.Module(bytes), {})
  return instance.exports as unknown as KernelExports
}

let loaded: KernelExports | undefined

/** The compiled kernels, made ready on first use: one instance per thread. */
export function kernels(): KernelExports {
  loaded ??= instantiate()
  return loaded
}
