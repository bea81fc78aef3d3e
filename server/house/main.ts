/** `npm run doctor`, `npm run backup`, `npm run restore`: looking after an installation on its own machine. */
import { Command } from 'commander'
import { readConfig } from '../config.server'
import { serverContext } from '../context.server'
import { BackupError, restoreBackup, takeBackup } from './backup.server'
import { examine } from './doctor.server'
import { expireImports } from './expire.server'

const say = (words: string) => void process.stdout.write(`${words}\n`)
const tell = (words: string) => void (process.stderr.isTTY && process.stderr.write(words))

const program = new Command('house')
program
  .command('doctor')
  .description('compares the database with the files; says what it would do')
  .option('--mend', 'does it', false)
  .action(async ({ mend }: { mend: boolean }) => {
    const context = serverContext()
    if (mend) await expireImports(context)
    const faults = await examine(context, Date.now())
    for (const fault of faults) {
      if (mend && fault.mend) await fault.mend()
      const cure = fault.cure ?? 'Only a backup, or bringing the footage in again, helps.'
      say(`${fault.words} ${mend && fault.mend ? `Done: ${cure}` : cure}`)
    }
    say(faults.length === 0 ? 'All is well.' : `${faults.length} found.${mend || faults.every((fault) => !fault.mend) ? '' : ' Run it with --mend to have that done.'}`) // prettier-ignore
    process.exitCode = faults.some((fault) => !mend || !fault.mend) ? 1 : 0
    await context.database.pool.end()
  })
program
  .command('backup')
  .argument('<folder>')
  .action(async (folder: string) => {
    const { databaseUrl, dataDir } = readConfig()
    const count = await takeBackup(databaseUrl, dataDir, folder, tell)
    say(`Backup of the database and ${count} files in ${folder}.`)
  })
program
  .command('restore')
  .argument('<folder>')
  .action(async (folder: string) => {
    const { databaseUrl, dataDir } = readConfig()
    const count = await restoreBackup(databaseUrl, dataDir, folder, tell)
    say(`Brought back: the database and ${count} files. Start with npm start.`)
  })

try {
  await program.parseAsync()
} catch (cause) {
  if (!(cause instanceof BackupError)) throw cause
  process.stderr.write(`${cause.message}\n`)
  process.exit(1)
}
