/** The files that find faces, from a folder. */
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { FaceFiles } from '../workers/faces/faceModel'

export const faceFilesIn = (folder: string): FaceFiles => ({
  folder: `${folder}/`,
  async read(name) {
    const { buffer, byteOffset, byteLength } = await readFile(join(folder, name))
    return buffer.slice(byteOffset, byteOffset + byteLength)
  },
})
