/** Says in words when the server or its database cannot be reached; gone again by itself. */
import { useSyncExternalStore } from 'react'
import { reachOfServer, type Reach } from '../workbench/news'

const WORDS: Readonly<Record<Exclude<Reach, 'all'>, string>> = {
  'no-database':
    'The database does not answer; it is started again by itself. What was saved is safe. What you do now is kept on this page and saved when it is back.',
  'no-server':
    'The server does not answer. What was saved is safe. What you do now is kept on this page and saved when it is back: leave the page open.',
}

export function ReachNotice() {
  const reach = useSyncExternalStore(reachOfServer.watch, reachOfServer.now, () => 'all' as const)
  if (reach === 'all') return null
  return (
    <p role="alert" className="fixed inset-x-0 bottom-0 z-50 bg-caution px-4 py-2 text-center text-well">
      {WORDS[reach]}
    </p>
  )
}
