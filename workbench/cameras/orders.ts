/** What is asked of the server about cameras. */
import type { Readout, SensorMap } from '../../core/survey/sensorMap'
import { useOrders, type Orders } from '../useOrders'

/** As the server's `cameraOrderSchema` reads it. */
export type CameraOrder =
  | { readonly intent: 'keep'; readonly productionId: string | null; readonly shotId: string | null; readonly map: SensorMap }
  | ({ readonly intent: 'change'; readonly mapId: string } & Pick<SensorMap, 'madeOn' | 'pixels' | 'motes'>)
  | { readonly intent: 'merge'; readonly mapId: string; readonly withId: string }
  | { readonly intent: 'remove'; readonly mapId: string }
  | { readonly intent: 'rename-camera'; readonly cameraId: string; readonly name: string }
  | { readonly intent: 'remove-camera'; readonly cameraId: string }
  | { readonly intent: 'apply'; readonly mapId: string; readonly targets: readonly { readonly shotId: string; readonly readout: Readout }[] }

/** @param onDone  Told once what was asked is done, with the map that came of it. */
export const useCameraOrder = (onDone?: (mapId: string | null) => void): Orders<CameraOrder> =>
  useOrders<CameraOrder, { readonly mapId: string | null }>('/cameras', ({ mapId }) => onDone?.(mapId))
