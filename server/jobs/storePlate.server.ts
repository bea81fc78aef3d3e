/** From footage to a shot: decodes every frame into the store, then makes the shot. Nothing half. */
import { randomUUID } from 'node:crypto'
import type { ServerContext } from '../context.server'
import type { Transaction } from '../db/client.server'
import { plates, shots } from '../db/schema'
import { announce } from '../events.server'
import { damageOf, decodeFrames } from '../media/decode.server'
import { LIMITS } from '../media/importPlan.server'
import { MediaError } from '../media/mediaError'
import type { MediaInput, MediaShape } from '../media/probe.server'
import { askForScene } from '../scenes.server'
import { freeShotId } from '../shots.server'

export interface PlateInput {
  /** What it is brought in for: its import. */
  readonly owner?: string
  readonly productionId: string
  readonly name: string
  readonly title: string
  readonly sourceName: string
  readonly firstFrame: number
  readonly input: MediaInput
  readonly shape: MediaShape
  /** Frames that are damaged are taken in as they are, and marked. */
  readonly takesDamaged?: boolean
}

/**
 * @param onProgress  Called after each frame with the number of frames done.
 * @param alsoInTransaction  Stored together with the shot, or not at all.
 * @returns The new shot's id. @throws MediaError; then no frame and no row is left behind.
 */
export async function storePlate(
  { database: { db }, frames }: ServerContext,
  command: PlateInput,
  onProgress: (framesDone: number) => Promise<void>,
  alsoInTransaction: (tx: Transaction, shotId: string) => Promise<void>,
  signal?: AbortSignal,
): Promise<string> {
  const plateId = randomUUID()
  const { shape } = command
  if (command.owner) await frames.sweep(command.owner) // begun by a worker that is gone
  const writer = await frames.createWriter(plateId, command.owner)
  let frameCount = 0
  let damagedFrames: readonly number[] = []
  try {
    const { input, takesDamaged } = command
    const damage = takesDamaged ? await damageOf(input, shape.expectedFrames?.count ?? null, signal) : null
    damagedFrames = (damage?.indices ?? []).map((index) => command.firstFrame + index)
    for await (const samples of decodeFrames(input, shape, signal, takesDamaged)) {
      if (frameCount >= LIMITS.frames)
        throw new MediaError(
          'too-large',
          `${command.sourceName} has more than ${LIMITS.frames} frames. Bring it in as several shots.`,
        )
      await writer.write(command.firstFrame + frameCount, samples)
      frameCount++
      await onProgress(frameCount)
    }
    await writer.commit()
  } catch (cause) {
    await writer.discard()
    throw cause
  }
  try {
    return await db.transaction(async (tx) => {
      const { owner: _owner, input: _input, shape: _shape, takesDamaged: _takes, ...named } = command
      const shotId = await addShot(tx, plateId, { ...named, ...shape, frameCount, damagedFrames })
      await alsoInTransaction(tx, shotId)
      return shotId
    })
  } catch (cause) {
    await frames.remove(plateId)
    throw cause
  }
}

export interface NewShot
  extends
    Omit<PlateInput, 'owner' | 'input' | 'shape' | 'takesDamaged'>,
    Pick<MediaShape, 'width' | 'height' | 'channels' | 'bitDepth' | 'frameRate' | 'sphere'> {
  readonly frameCount: number
  readonly damagedFrames?: readonly number[]
}

/** A shot whose frames are in the store. @returns Its id. */
export async function addShot(
  tx: Transaction,
  plateId: string,
  {
    productionId,
    name,
    title,
    sourceName,
    width,
    height,
    channels,
    bitDepth,
    frameRate,
    firstFrame,
    frameCount,
    damagedFrames,
    sphere,
  }: NewShot,
): Promise<string> {
  const shotId = await freeShotId(tx, name)
  await tx.insert(shots).values({ id: shotId, productionId, name, title })
  const rate = { rateNum: frameRate.num, rateDen: frameRate.den }
  const shape = { width, height, channels, bitDepth, sphere }
  await tx
    .insert(plates)
    .values({ id: plateId, shotId, sourceName, ...shape, ...rate, firstFrame, frameCount, damagedFrames })
  await askForScene(tx, shotId)
  await announce(tx, { kind: 'shot', id: shotId })
  return shotId
}
