/** What is asked of the server about cameras, and what came of it, as a toast. */
import { useEffect } from 'react'
import { useFetcher } from 'react-router'
import { toast } from 'sonner'
import type { SensorMap } from '../../core/survey/sensorMap'

/** As the server's `cameraOrderSchema` reads it. */
export type CameraOrder =
  | { readonly intent: 'keep'; readonly productionId: string | null; readonly shotId: string | null; readonly map: SensorMap }
  | ({ readonly intent: 'change'; readonly mapId: string } & Pick<SensorMap, 'madeOn' | 'pixels' | 'motes'>)
  | { readonly intent: 'merge'; readonly mapId: string; readonly withId: string }
  | { readonly intent: 'remove'; readonly mapId: string }
  | { readonly intent: 'rename-camera'; readonly cameraId: string; readonly name: string }
  | { readonly intent: 'remove-camera'; readonly cameraId: string }
  | {
      readonly intent: 'apply'
      readonly mapId: string
      readonly targets: readonly { readonly shotId: string; readonly readout: 'scaled' | 'cropped' }[]
    }

export type CameraAnswer =
  { readonly ok: true; readonly words: string; readonly mapId: string | null } | { readonly ok: false; readonly message: string }

/** @param onDone  Told once what was asked is done. */
export function useCameraOrder(onDone?: (mapId: string | null) => void): { order(order: CameraOrder): void; isBusy: boolean } {
  const fetcher = useFetcher<CameraAnswer>()
  const { data } = fetcher
  useEffect(() => {
    if (!data) return
    if (!data.ok) toast.error(data.message)
    else {
      toast.success(data.words)
      onDone?.(data.mapId)
    }
    // Each answer is told once, whoever listens by then.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data])
  return {
    order: (order) => void fetcher.submit(order, { method: 'post', action: '/cameras', encType: 'application/json' }),
    isBusy: fetcher.state !== 'idle',
  }
}
