/** The demo as a fresh start brings it in: its camera, and of its film the shots that a test wants. */
import { mkdtemp, rm, symlink } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { contextOf } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { seedDemo } from '../../server/seedDemo.server'
import { DEMO_FOLDER } from './demoFilm'

export async function bringInDemo(...names: readonly string[]): Promise<void> {
  const film = await mkdtemp(join(tmpdir(), 'film-'))
  for (const name of names) await symlink(resolve(DEMO_FOLDER, name), join(film, name))
  const database = openDatabase(process.env['FILLAGRANT_TEST_DATABASE']!)
  try {
    await seedDemo(contextOf(database, process.env['FILLAGRANT_TEST_DATA']!), film)
  } finally {
    await database.pool.end()
    await rm(film, { recursive: true })
  }
}
