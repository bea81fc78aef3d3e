import { reactRouter } from '@react-router/dev/vite'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'
import { coreStamp } from './server/results/coreStamp.server'

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  resolve: { tsconfigPaths: true },
  worker: { format: 'es' },
  // A page says which core it computes with.
  define: { __CORE_STAMP__: JSON.stringify(coreStamp()) },
})
