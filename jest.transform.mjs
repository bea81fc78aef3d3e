// The compiler for tests, and one thing more: every module looks the built-ins of hot loops up once. In a test
// runner's sandbox a global is looked up anew each time it is named, which makes arithmetic several times slower.
import { createHash } from 'node:crypto'
import { createTransformer } from '@swc/jest'

const swc = createTransformer({
  jsc: {
    parser: { syntax: 'typescript', tsx: true },
    target: 'es2022',
    transform: { react: { runtime: 'automatic' } },
  },
  module: { type: 'commonjs' },
  sourceMaps: 'inline',
})
const BUILT_INS = [
  'Math',
  'Number',
  'Infinity',
  'NaN',
  'Array',
  'Map',
  'Object',
  'Set',
  'Float32Array',
  'Float64Array',
  'Int16Array',
  'Int32Array',
  'Uint8Array',
  'Uint16Array',
  'Uint32Array',
]
const LOOKED_UP = `var ${BUILT_INS.map((name) => `${name}=globalThis.${name}`).join(',')};`

/** The first statement; a comment may come before it. */
const DIRECTIVE = /"use strict";/

export default {
  ...swc,
  // What was compiled otherwise is compiled again.
  getCacheKey: (...asked) =>
    createHash('sha256')
      .update(swc.getCacheKey(...asked))
      .update(LOOKED_UP)
      .digest('hex'),
  process: (source, path, options) => {
    const made = swc.process(source, path, options)
    // On a line that is there already, so that source maps still fit.
    return { ...made, code: made.code.replace(DIRECTIVE, (first) => first + LOOKED_UP) }
  },
}
