/** How the shot's background moves: what the page brought, and again whenever the server says that it is worked out further. */
import { useEffect, useState } from 'react'
import type { Scene } from '../core/scene/scene'

export interface SceneStatus {
  readonly state: 'none' | 'waiting' | 'working' | 'done' | 'failed'
  readonly stepsDone: number
  readonly stepsTotal: number
  readonly scene: Scene | null
  readonly error: string | null
}

export function useScene(shotId: string, start: SceneStatus): SceneStatus {
  const [status, setStatus] = useState(start)
  useEffect(() => {
    let isClosed = false
    const look = () => {
      fetch(`/shots/${shotId}/scene`)
        .then((response) => (response.ok ? (response.json() as Promise<SceneStatus>) : null))
        // The same scene stays the same object: frames made with it are still good.
        .then((next) => next && !isClosed && setStatus((now) => (sameScene(now.scene, next.scene) ? { ...next, scene: now.scene } : next)))
        .catch(() => undefined) // the next news brings it
    }
    const source = new EventSource('/events')
    source.addEventListener('scene', (event: MessageEvent<string>) => {
      if ((JSON.parse(event.data) as { id: string }).id === shotId) look()
    })
    return () => {
      isClosed = true
      source.close()
    }
  }, [shotId])
  return status
}

const sameScene = (a: Scene | null, b: Scene | null): boolean => JSON.stringify(a) === JSON.stringify(b)
