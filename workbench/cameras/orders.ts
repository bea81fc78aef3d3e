/** What is asked of the server about cameras. */
import type { CameraDone, CameraOrder } from '../../core/survey/cameraOrders'
import { useOrders, type Orders } from '../useOrders'

/** @param onDone  Told once what was asked is done, with the map that came of it. */
export const useCameraOrder = (onDone?: (mapId: string | null) => void): Orders<CameraOrder> =>
  useOrders<CameraOrder, CameraDone>('/cameras', ({ mapId }) => onDone?.(mapId))
