// A thread starts as plain JavaScript: it turns TypeScript on for itself, then becomes a compute worker.
import { register } from 'tsx/esm/api'

register()
await import('./compute.thread.ts')
