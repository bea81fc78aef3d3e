/** How the shot's background moves: what the page brought, and again whenever the server says that it is worked out further. */
import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import type { Scene } from '../core/scene/scene'
import type { SceneStatus } from '../core/scene/status'

export function useScene(shotId: string, start: SceneStatus): SceneStatus {
  const [status, setStatus] = useState(start)
  useEffect(() => {
    let isClosed = false
    const look = () => {
      fetch(`/shots/${shotId}/scene`)
        .then((response) => (response.ok ? (response.json() as Promise<SceneStatus>) : null))
        // The same scene stays the same object: frames made with it are still good.
        .then((next) => next && !isClosed && setStatus((now) => (sameScene(now.scene, next.scene) ? { ...next, scene: now.scene } : next)))
        .catch((cause: Error) =>
          toast.warning(
            `The scene’s motion could not be asked for: ${cause.message} The last one is used; it is asked for again with the next news.`,
            { id: 'scene' },
          ),
        )
    }
    const source = new EventSource('/events')
    source.addEventListener('scene', (event: MessageEvent<string>) => {
      if ((JSON.parse(event.data) as { id: string }).id === shotId) look()
    })
    // Before the connection stood, or after a break, something may have been missed.
    source.addEventListener('open', look)
    return () => {
      isClosed = true
      source.close()
    }
  }, [shotId])
  return status
}

const sameScene = (a: Scene | null, b: Scene | null): boolean => JSON.stringify(a) === JSON.stringify(b)
