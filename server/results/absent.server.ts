/** For files that others may remove at any time: it is not there, or no more. */
export function absentAsNull(cause: NodeJS.ErrnoException): null {
  if (cause.code === 'ENOENT') return null
  throw cause
}
