import { fromBuffer, type Entry } from 'yauzl'

/** Every file of a zip by its name. @throws Error when a name is there twice. */
export function unzip(bytes: Buffer): Promise<Map<string, Buffer>> {
  return new Promise((resolve, reject) => {
    fromBuffer(bytes, (error, zip) => {
      if (error) return reject(error)
      const files = new Map<string, Buffer>()
      let open = zip.entryCount
      zip.on('entry', (entry: Entry) => {
        if (files.has(entry.fileName)) return reject(new Error(`${entry.fileName} is there twice`))
        files.set(entry.fileName, Buffer.alloc(0))
        zip.openReadStream(entry, (failure, stream) => {
          if (failure) return reject(failure)
          const parts: Buffer[] = []
          stream.on('data', (part: Buffer) => parts.push(part))
          stream.on('end', () => {
            files.set(entry.fileName, Buffer.concat(parts))
            if (--open === 0) resolve(files)
          })
        })
      })
    })
  })
}
