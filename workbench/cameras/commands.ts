/** What is asked of the server about cameras. */
import type { CameraDone, CameraCommand } from '../../core/jobs/cameraCommands'
import { useCommands, type Commands } from '../useCommands'

/** @param onDone  Told once what was asked is done, with the map that came of it. */
export const useCameraCommand = (onDone?: (mapId: string | null) => void): Commands<CameraCommand> =>
  useCommands<CameraCommand, CameraDone>('/cameras', ({ mapId }) => onDone?.(mapId))
