import type { Readout } from '../../core/survey/sensorMap'

export const READOUT_WORDS: Readonly<Record<Readout, string>> = {
  scaled: 'All of the sensor',
  cropped: 'Its middle, 1:1',
}
