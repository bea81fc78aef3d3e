import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { findVersion, versionFolder } from '../../server/versions.server'
import type { Route } from './+types/download'

/** Hands over a finished version. The path comes from our own records, never from the address. */
export async function loader({ params }: Route.LoaderArgs) {
  const context = serverContext()
  const id = z.uuid().safeParse(params.versionId)
  const version = id.success ? await findVersion(context, id.data) : null
  if (!version?.fileName || version.state !== 'done')
    throw new Response('This version is not finished.', { status: 404 })
  const path = join(versionFolder(context, version.id), version.fileName)
  const size = (await stat(path).catch(() => null))?.size
  if (size !== version.sizeBytes)
    throw new Response(
      `The file of ${version.fileName} is not as it was made. Its mends are safe: make the version again.`,
      { status: 410 },
    )
  const stream = createReadStream(path)
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'Content-Type':
        version.format === 'png'
          ? 'application/zip'
          : version.format === 'vp9'
            ? 'video/webm'
            : 'video/x-matroska',
      'Content-Length': String(version.sizeBytes),
      'Content-Disposition': `attachment; filename="${version.fileName}"`,
      'Cache-Control': 'no-store',
    },
  })
}
