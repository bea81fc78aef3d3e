/**
 * What core takes from its surroundings: all of it is the same in every browser, worker
 * and Node release. Everything else that only one of them has is an unknown name here.
 */
declare function atob(base64: string): string

declare class TextEncoder {
  encode(text: string): Uint8Array
}

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

declare namespace WebAssembly {
  class Memory {
    readonly buffer: ArrayBuffer
    grow(pages: number): number
  }
  class Module {
    constructor(bytes: Uint8Array)
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>)
    readonly exports: Record<string, unknown>
  }
}
