/** Calls back whenever the server says that something of a shot has changed, and when the connection stands (again): news may have been missed. */
import { useEffect } from 'react'

export function useNewsOf(kind: 'scene' | 'gather' | 'survey', shotId: string, refetch: () => void): void {
  useEffect(() => {
    const source = new EventSource('/events')
    source.addEventListener(kind, (event: MessageEvent<string>) => {
      if ((JSON.parse(event.data) as { id: string }).id === shotId) refetch()
    })
    source.addEventListener('open', refetch)
    return () => source.close()
  }, [kind, shotId, refetch])
}
