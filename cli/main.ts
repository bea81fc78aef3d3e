/** `npm run fillagrant -- …`: the same core without a browser. */
import { Command, CommanderError, Option } from 'commander'
import { EXIT } from './exitCodes'
import { CliError, mendFootage } from './mend'

const program = new Command('fillagrant')
  .description('Takes things out of moving footage, without a browser.')
  .exitOverride()
  .addHelpText(
    'after',
    `
Exit codes:
  ${EXIT.ok}  done
  ${EXIT.unexpected}  an error of the program itself
  ${EXIT.usage}  wrong arguments
  ${EXIT.plate}  the plate cannot be read
  ${EXIT.mends}  the mends file cannot be used
  ${EXIT.output}  the result cannot be written
  ${EXIT.stopped}  stopped by the user

Examples:
  npm run fillagrant -- mend --plate plate.mkv --mends mends.json --out mended.mkv
  npm run fillagrant -- mend --plate "in/shot.%04d.png" --mends mends.json --out "out/shot.%04d.png" --frames 1001-1024`,
  )

program
  .command('mend')
  .description('Renders a plate with its mends.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json as the Mend stage exports it')
  .requiredOption('--out <path>', 'a pattern ending in .png, or a file ending in .mkv (FFV1) or .webm (VP9)')
  .option('--frames <first-last>', 'only these frames, numbered as the mends number them')
  .addOption(new Option('--rate <fps>', 'frames a second of numbered pictures, such as 24 or 24000/1001').default('', 'as in the mends file'))
  .option('--quiet', 'no progress on standard error', false)
  .addHelpText('after', '\nNothing is left behind when it fails: results are written under a temporary name first.')
  .action(async (options: { plate: string; mends: string; out: string; frames?: string; rate: string; quiet: boolean }) => {
    const stop = new AbortController()
    process.on('SIGINT', () => stop.abort())
    process.on('SIGTERM', () => stop.abort())
    const result = await mendFootage(options, (text) => options.quiet || process.stderr.write(text), stop.signal)
    console.log(JSON.stringify(result))
  })

try {
  await program.parseAsync(process.argv)
} catch (cause) {
  if (cause instanceof CommanderError) process.exit(cause.exitCode === 0 ? EXIT.ok : EXIT.usage)
  if (cause instanceof CliError) {
    console.error(cause.message)
    process.exit(cause.exitCode)
  }
  console.error(cause)
  process.exit(EXIT.unexpected)
}
