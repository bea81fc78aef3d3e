/** What can be done with cameras and their sensor maps: one schema for who asks and who carries it out. */
import { z } from 'zod'
import { READOUTS, sensorMapSchema } from '../survey/sensorMap'

const shotIdSchema = z.string().min(1).max(80)

export const cameraCommandSchema = z.discriminatedUnion('intent', [
  /** A map goes to the camera of its name, which is made where there is none; kept from a shot, it is the shot's camera from then on. */
  z.strictObject({
    intent: z.literal('keep'),
    productionId: z.string().max(80).nullable(),
    shotId: shotIdSchema.nullable(),
    map: sensorMapSchema,
  }),
  z.strictObject({
    intent: z.literal('change'),
    mapId: z.uuid(),
    ...sensorMapSchema.pick({ madeOn: true, pixels: true, motes: true }).shape,
  }),
  z.strictObject({ intent: z.literal('merge'), mapId: z.uuid(), withId: z.uuid() }),
  z.strictObject({ intent: z.literal('remove'), mapId: z.uuid() }),
  z.strictObject({
    intent: z.literal('rename-camera'),
    cameraId: z.uuid(),
    name: sensorMapSchema.shape.camera,
  }),
  z.strictObject({ intent: z.literal('remove-camera'), cameraId: z.uuid() }),
  z.strictObject({
    intent: z.literal('apply'),
    mapId: z.uuid(),
    targets: z
      .array(z.strictObject({ shotId: shotIdSchema, readout: z.enum(READOUTS) }))
      .min(1)
      .max(1000),
  }),
])
export type CameraCommand = z.output<typeof cameraCommandSchema>

/** The map that an order was about, or that came of it. */
export interface CameraDone {
  readonly mapId: string | null
}
