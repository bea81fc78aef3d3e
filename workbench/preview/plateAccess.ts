/** A plate's samples, mattes and stills over the network, as a worker in the browser asks for them. */
import type { FrameRect } from '../../core/shot/clip'
import type { ReadMatte } from '../../core/matte/pictureMatte'
import type { Rect } from '../../core/image/rect'
import type { Samples } from '../../core/image/samples'
import { markFromSamples, type MarkPicture } from '../../core/image/markPicture'
import type { PlateReference } from '../../workers/protocol'

const samplesIn = (
  { channels, bitDepth }: PlateReference,
  { width, height }: Rect,
  buffer: ArrayBuffer,
  at: number,
): Samples => {
  const length = width * height * channels
  return {
    width,
    height,
    channels,
    data: bitDepth === 8 ? new Uint8Array(buffer, at, length) : new Uint16Array(buffer, at, length),
  }
}

/** Rectangles of frames in one answer. @throws Error when the server has none, with its status. */
export async function fetchRects(plate: PlateReference, wanted: readonly FrameRect[]): Promise<Samples[]> {
  const body = JSON.stringify(
    wanted.map(({ frame, rect: { col, row, width, height } }) => ({ frame, col, row, width, height })),
  )
  const response = await fetch(`${plate.location}/rects`, { method: 'POST', body })
  if (!response.ok) throw new Error(`Frame ${wanted[0]!.frame} could not be fetched (${response.status}).`)
  const buffer = await response.arrayBuffer()
  let at = 0
  return wanted.map(({ rect }) => {
    const samples = samplesIn(plate, rect, buffer, at)
    at += samples.data.byteLength
    return samples
  })
}

/** One of the files that find faces. */
export async function fetchFaceFile(name: string): Promise<ArrayBuffer> {
  const response = await fetch(`/faces/${name}`)
  if (!response.ok) throw new Error(`${name}, which finds faces, could not be fetched (${response.status}).`)
  return response.arrayBuffer()
}

/** A matte sequence that was brought in; patterns of files mean nothing to a browser. */
export async function fetchMatte(
  plate: PlateReference,
  pattern: string,
  frame: number,
): Promise<ReadMatte | null> {
  if (!pattern.startsWith('matte:')) return null
  const response = await fetch(`${plate.matteLocation}/${encodeURIComponent(pattern.slice(6))}/${frame}`)
  if (response.status === 204) return null
  if (!response.ok) throw new Error(`The matte of frame ${frame} could not be fetched (${response.status}).`)
  const buffer = await response.arrayBuffer()
  const [col, row, width, height] = new Int32Array(buffer, 0, 4) as unknown as [
    number,
    number,
    number,
    number,
  ]
  return { rect: { col, row, width, height }, coverage: new Float32Array(buffer, 16) }
}

/** Part of a still that was brought in; names of files mean nothing to a browser. */
export async function fetchStill(plate: PlateReference, name: string, rect: Rect): Promise<Samples | null> {
  if (!name.startsWith('still:')) return null
  const { col, row, width, height } = rect
  const response = await fetch(
    `${plate.stillLocation}/${encodeURIComponent(name.slice(6))}?col=${col}&row=${row}&width=${width}&height=${height}`,
  )
  if (response.status === 404) return null
  if (!response.ok) throw new Error(`The still could not be fetched (${response.status}).`)
  return samplesIn(plate, rect, await response.arrayBuffer(), 0)
}

/** The picture of a mark; null where there is none of that name. */
export async function fetchMark(plate: PlateReference, name: string): Promise<MarkPicture | null> {
  if (!name.startsWith('mark:')) return null
  const response = await fetch(`${plate.markLocation}/${encodeURIComponent(name.slice(5))}?as=samples`)
  if (response.status === 404) return null
  if (!response.ok) throw new Error(`The mark’s picture could not be fetched (${response.status}).`)
  const [width, height] = ['X-Width', 'X-Height'].map((header) => Number(response.headers.get(header))) as [
    number,
    number,
  ]
  return markFromSamples({ width, height, channels: 4, data: new Uint16Array(await response.arrayBuffer()) })
}
