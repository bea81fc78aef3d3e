import { toast } from 'sonner'
import { readSensorMap, type SensorMap } from '../../core/survey/sensorMap'

/** A sensor map from a file; null where it is none, which is said. */
export async function readMapFile(file: File): Promise<SensorMap | null> {
  const result = readSensorMap(await file.text())
  if (result.ok) return result.map
  toast.error(`${file.name} was not read. ${result.detail}`, { description: 'Nothing has changed.' })
  return null
}
