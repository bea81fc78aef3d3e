/**
 * That pictures are all-round, as files say it: read from footage, written into what is rendered.
 *
 * Sources: Matroska (RFC 9559), *Projection* of a track's *Video*; XMP Specification Part 3 (storage in files, PNG); the photo-sphere properties of
 * the `GPano` namespace.
 */
import { open, readFile, rename, writeFile } from 'node:fs/promises'
import { crc32 } from 'node:zlib'
import { z } from 'zod'
import type { Size } from '../../core/image/rect'
import type { RenderFormat } from './formats'
import { MediaError } from './mediaError'
import { withProjection } from './matroskaProjection'

/** How the camera was held: turned so far from the scene's own middle and horizon. */
export const spherePoseSchema = z.strictObject({
  yawDeg: z.number().min(-360).max(360),
  pitchDeg: z.number().min(-180).max(180),
  rollDeg: z.number().min(-360).max(360),
})
export type SpherePose = z.output<typeof spherePoseSchema>

export const UPRIGHT: SpherePose = { yawDeg: 0, pitchDeg: 0, rollDeg: 0 }

const sideSchema = z.object({
  side_data_type: z.literal('Spherical Mapping'),
  projection: z.string(),
  yaw: z.number().default(0),
  pitch: z.number().default(0),
  roll: z.number().default(0),
})

/** What a stream says of itself, as ffprobe writes it; null where it says nothing of the kind. */
export function poseOfStream(sides: readonly unknown[] = []): SpherePose | null {
  for (const side of sides) {
    const read = sideSchema.safeParse(side)
    if (!read.success || read.data.projection !== 'equirectangular') continue
    return poseOf(read.data)
  }
  return null
}

const GPANO = 'http://ns.google.com/photos/1.0/panorama/'

/** What a picture says of itself in its XMP; null where it says nothing of the kind, or shows only a part of the sphere. */
export function poseOfXmp(xmp: string): SpherePose | null {
  const said = (name: string) => new RegExp(`GPano:${name}(?:="|>)([^"<]*)`).exec(xmp)?.[1]
  if (said('ProjectionType') !== 'equirectangular') return null
  const of = (whole: string, cropped: string) => said(whole) === undefined || said(cropped) === undefined || said(whole) === said(cropped) // prettier-ignore
  if (!of('FullPanoWidthPixels', 'CroppedAreaImageWidthPixels') || !of('FullPanoHeightPixels', 'CroppedAreaImageHeightPixels')) return null // prettier-ignore
  const degrees = (name: string) => Number(said(name) ?? 0)
  return poseOf({ yaw: degrees('PoseHeadingDegrees'), pitch: degrees('PosePitchDegrees'), roll: degrees('PoseRollDegrees') }) // prettier-ignore
}

/** What is out of range is no pose: the picture is all-round all the same. */
const poseOf = ({ yaw, pitch, roll }: { yaw: number; pitch: number; roll: number }): SpherePose =>
  spherePoseSchema.safeParse({ yawDeg: yaw, pitchDeg: pitch, rollDeg: roll }).data ?? UPRIGHT

export function xmpOf({ yawDeg, pitchDeg, rollDeg }: SpherePose, { width, height }: Size): string {
  const said = {
    ProjectionType: 'equirectangular',
    UsePanoramaViewer: 'True',
    PoseHeadingDegrees: (yawDeg + 360) % 360,
    PosePitchDegrees: pitchDeg,
    PoseRollDegrees: rollDeg,
    FullPanoWidthPixels: width,
    FullPanoHeightPixels: height,
    CroppedAreaImageWidthPixels: width,
    CroppedAreaImageHeightPixels: height,
    CroppedAreaLeftPixels: 0,
    CroppedAreaTopPixels: 0,
  }
  const attributes = Object.entries(said).map(([name, value]) => `GPano:${name}="${value}"`)
  return `<?xpacket begin="\uFEFF" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:GPano="${GPANO}" ${attributes.join(' ')}/></rdf:RDF></x:xmpmeta><?xpacket end="w"?>`
}

const KEYWORD = 'XML:com.adobe.xmp'
/** The signature, and the header chunk that must come first. */
const AFTER_HEADER = 8 + 25

/** A PNG with an XMP packet in it; one that has it already is left alone. @param png  Whole. */
export function pngWithXmp(png: Buffer, xmp: string): Buffer {
  if (png.includes(KEYWORD, AFTER_HEADER, 'latin1')) return png
  // Not compressed, without language and translated keyword. Source: PNG (W3C, third edition), iTXt.
  const body = Buffer.concat([Buffer.from(`iTXt${KEYWORD}\0\0\0\0\0`, 'latin1'), Buffer.from(xmp, 'utf8')])
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)]
  length.writeUInt32BE(body.length - 4)
  sum.writeUInt32BE(crc32(body) >>> 0)
  return Buffer.concat([png.subarray(0, AFTER_HEADER), length, body, sum, png.subarray(AFTER_HEADER)])
}

/** Says of what was rendered, a picture or a video, that it is all-round. */
export const tagRendered = (
  format: RenderFormat,
  path: string,
  pose: SpherePose,
  size: Size,
): Promise<void> => (format === 'png' ? tagPicture(path, pose, size) : tagVideo(path, pose))

/** Says of a picture on disk that it is all-round. Whole or not at all; done twice it stays the same. */
async function tagPicture(path: string, pose: SpherePose, size: Size): Promise<void> {
  const partial = `${path}.partial`
  await writeFile(partial, pngWithXmp(await readFile(path), xmpOf(pose, size)))
  await rename(partial, path)
}

/** A Matroska file's lists lie in its beginning, well within this. */
const HEAD_BYTES = 1 << 16

/** Says of a Matroska or WebM file that it is all-round. @throws MediaError where its head leaves no room; nothing is changed then. */
async function tagVideo(path: string, pose: SpherePose): Promise<void> {
  const file = await open(path, 'r+')
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(HEAD_BYTES), 0, HEAD_BYTES, 0)
    const head = withProjection(buffer.subarray(0, bytesRead), pose)
    await file.write(head, 0, head.length, 0)
  } catch (cause) {
    if (!(cause instanceof RangeError)) throw cause
    throw new MediaError('cannot-write', `The video cannot say that it is all-round: ${cause.message}. Render PNG pictures instead.`, { cause }) // prettier-ignore
  } finally {
    await file.close()
  }
}
