import { reactRouter } from '@react-router/dev/vite'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'
import { coreStamp } from './server/results/coreStamp.server'

/** Notices bring their style as an element made by a script, which our pages do not let in: it is in `app.css` instead. */
const STYLES_AS_FILES = {
  name: 'styles-as-files',
  transform(code: string, id: string) {
    return /sonner\/dist\/index\.mjs/.test(id)
      ? code.replace('function __insertCSS(code) {', 'function __insertCSS(code) {\n  return')
      : undefined
  },
}

export default defineConfig({
  plugins: [tailwindcss(), reactRouter(), STYLES_AS_FILES],
  resolve: { tsconfigPaths: true },
  worker: { format: 'es' },
  // A page says which core it computes with.
  define: { __CORE_STAMP__: JSON.stringify(coreStamp()) },
})
