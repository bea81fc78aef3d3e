/** `npm run people`: accounts on the console of the machine, for the first one and for who has forgotten the password. */
import { Command } from 'commander'
import { openDatabase } from '../db/client.server'
import { readConfig } from '../config.server'
import {
  accountNamed,
  addAccount,
  easyPassword,
  listAccounts,
  nameSchema,
  roleSchema,
  setPassword,
} from './accounts.server'

const client = openDatabase(readConfig().databaseUrl)
const { db } = client
const say = (words: string) => void process.stdout.write(`${words}\n`)
const fail = (words: string): never => {
  process.stderr.write(`${words}\n`)
  process.exit(1)
}

async function add(name: string, role: string): Promise<void> {
  const [asName, asRole] = [nameSchema.safeParse(name), roleSchema.safeParse(role)]
  if (!asName.success) return fail(asName.error.issues[0]!.message)
  if (!asRole.success) return fail(`A role is one of ${roleSchema.options.join(', ')}. Received ${role}.`)
  const password = easyPassword()
  const made = await addAccount(db, asName.data, password, asRole.data)
  if (!made) return fail(`Somebody is called ${name} already.`)
  say(`${made.name} signs in with the password ${password} and changes it under Account.`)
}

const program = new Command('people').description('Accounts of this server.')
program.command('list').action(async () => {
  for (const { name, role, seenAt } of await listAccounts(db))
    say(`${name}\t${role}\t${seenAt ?? 'not signed in'}`)
})
program
  .command('add')
  .argument('<name>')
  .argument('[role]', roleSchema.options.join(', '), 'mend')
  .action(add)
program
  .command('reset')
  .argument('<name>')
  .description('a new password; signed out everywhere')
  .action(async (name: string) => {
    const account = (await accountNamed(db, name)) ?? fail(`Nobody is called ${name}.`)
    const password = easyPassword()
    await setPassword(db, account.id, password)
    say(`${account.name} signs in with the password ${password} and changes it under Account.`)
  })
program
  .command('first')
  .description('makes an account that runs the server, where there is none at all')
  .action(async () => {
    if ((await listAccounts(db)).length === 0) await add('run', 'run')
  })
await program.parseAsync()
await client.pool.end()
