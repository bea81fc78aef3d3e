/**
 * A small disk of its own: an ext4 file system on a block device that is a file. Root alone can have one, with Debian's
 * btrfs-progs: the file lies on a file system that can photograph it at once, without writing anything down first. What the
 * kernel has not yet given to the device is not in the photograph, as it is gone when the power fails.
 */
import { execFileSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { join } from 'node:path'

const run = (program: string, ...args: readonly string[]): void =>
  void execFileSync(program, args, { stdio: ['ignore', 'ignore', 'inherit'] })

export class SmallDisk {
  readonly #place = mkdtempSync('/var/tmp/fillagrant-disk-')
  readonly #mounted: string[] = []
  #photographs = 0
  /** Where it can be written to. */
  readonly folder: string

  constructor(megabytes: number) {
    const host = join(this.#place, 'host')
    run('truncate', '-s', `${2 * megabytes + 4000}M`, `${host}.img`)
    run('mkfs.btrfs', '-q', `${host}.img`)
    this.#mount(`${host}.img`, host)
    const image = join(host, 'disk.img')
    run('truncate', '-s', `${megabytes}M`, image)
    run('mkfs.ext4', '-q', '-m', '0', image) // nothing kept back for root
    this.folder = this.#mount(image, join(this.#place, 'disk'))
    chmodSync(this.#place, 0o755) // the database runs as another user
  }

  #mount(image: string, folder: string): string {
    mkdirSync(folder)
    run('mount', '-o', 'loop', image, folder)
    this.#mounted.push(folder)
    return folder
  }

  #unmount(folder: string): void {
    run('umount', folder)
    this.#mounted.splice(this.#mounted.indexOf(folder), 1)
  }

  /** What lies on the device now. */
  photograph(): string {
    const picture = join(this.#place, 'host', `picture-${++this.#photographs}.img`)
    run('cp', '--reflink=always', join(this.#place, 'host', 'disk.img'), picture)
    return picture
  }

  /** Opens a photograph as after the power has come back, lets it be looked at, and throws it away. */
  async opened<Result>(picture: string, look: (folder: string) => Promise<Result>): Promise<Result> {
    const folder = this.#mount(picture, join(this.#place, 'opened'))
    try {
      return await look(folder)
    } finally {
      this.#unmount(folder)
      rmSync(folder, { recursive: true })
      rmSync(picture)
    }
  }

  remove(): void {
    for (const folder of [...this.#mounted].reverse()) this.#unmount(folder)
    rmSync(this.#place, { recursive: true })
  }
}
