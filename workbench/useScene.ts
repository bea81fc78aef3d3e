/** How the shot's background moves: what the page brought, and again whenever the server says that it is worked out further. */
import { useCallback, useState } from 'react'
import { toast } from 'sonner'
import type { Scene } from '../core/scene/scene'
import type { NewsStep } from '../core/jobs/news'
import type { SceneStatus } from '../core/jobs/scene'
import { useNewsOf } from './useNewsOf'

/** @param isFrozen  It stays as it came: what a version was made with. */
export function useScene(shotId: string, start: SceneStatus, isFrozen = false): SceneStatus {
  const [status, setStatus] = useState(start)
  const refetch = useCallback(() => {
    if (isFrozen) return
    fetch(`/shots/${shotId}/scene`)
      .then((response) => (response.ok ? (response.json() as Promise<SceneStatus>) : null))
      // The same scene stays the same object: frames made with it are still good.
      .then(
        (next) =>
          next &&
          setStatus((now) => (sameScene(now.scene, next.scene) ? { ...next, scene: now.scene } : next)),
      )
      .catch((cause: Error) =>
        toast.warning(
          `The scene’s motion could not be asked for: ${cause.message} The last one is used; it is asked for again with the next news.`,
          {
            id: 'scene',
          },
        ),
      )
  }, [isFrozen, shotId])
  const onStep = useCallback(
    ({ done, total }: NewsStep) =>
      !isFrozen &&
      setStatus((now) => ({ ...now, state: 'working', stepsDone: done, stepsTotal: total, error: null })),
    [isFrozen],
  )
  useNewsOf('scene', shotId, refetch, onStep)
  return status
}

const sameScene = (a: Scene | null, b: Scene | null): boolean => JSON.stringify(a) === JSON.stringify(b)
