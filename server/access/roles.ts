import type { Role } from '../../core/jobs/roles'

/**
 * What a request needs, from its address: looking for what only reads, mending for what writes, more where it is said
 * here. What an order is worth beyond that is looked at where it is read.
 */
export function roleFor(method: string, path: string): Role {
  const bare = path.replace(/\.data$/, '')
  if (/^\/people\b/.test(bare)) return 'run'
  if (method === 'GET' || method === 'HEAD') return 'look'
  if (/^\/(account|sign-out)\b/.test(bare) || /^\/shots\/[^/]+\/notes$/.test(bare)) return 'look'
  // Rectangles are asked for by their list, in a body.
  if (/^\/plates\/[^/]+\/rects$/.test(bare)) return 'look'
  return 'mend'
}
