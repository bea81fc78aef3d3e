/** `npm run fillagrant -- …`: the same core without a browser. */
import { setMaxListeners } from 'node:events'
import { Command, CommanderError, Option } from 'commander'
import { EXIT } from './exitCodes'
import { acceptFindsOf } from './accept'
import { CliError } from './cliError'
import { followScene } from './follow'
import { followThings } from './followThing'
import { mendFootage } from './mend'
import { sceneOfFootage } from './scene'
import { surveyFootage } from './survey'
import { suggestSourcesOf } from './source'
import { takeMarks } from './takeMarks'
import { clingFootage, trackFootage } from './track'

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
  npm run fillagrant -- track --plate plate.mkv --points points.json --out tracks.json
  npm run fillagrant -- cling --plate plate.mkv --mends rough.json --out mends.json
  npm run fillagrant -- survey --plate plate.mkv --out finds.json
  npm run fillagrant -- accept --finds finds.json --out mends.json
  npm run fillagrant -- source --plate plate.mkv --mends mends.json --out mends.json
  npm run fillagrant -- scene --plate plate.mkv --mends mends.json --out scene.json
  npm run fillagrant -- follow --mends mends.json --scene scene.json --out mends.json
  npm run fillagrant -- thing --plate plate.mkv --mends mends.json --scene scene.json --out mends.json
  npm run fillagrant -- mark --plate plate.mkv --mends mends.json --scene scene.json --out mends.json
  npm run fillagrant -- mend --plate "in/shot.%04d.png" --mends mends.json --out "out/shot.%04d.png" --frames 1001-1024`,
  )

program
  .command('mend')
  .description('Renders a plate with its mends.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json as the Mend stage exports it')
  .requiredOption('--out <path>', 'a pattern ending in .png, or a file ending in .mkv (FFV1) or .webm (VP9)')
  .option('--scene <file>', 'scene.json of the same plate, for fills that gather from other frames')
  .option('--frames <first-last>', 'only these frames, numbered as the mends number them')
  .addOption(
    new Option('--rate <fps>', 'frames a second of numbered pictures, such as 24 or 24000/1001').default(
      '',
      'as in the mends file',
    ),
  )
  .option('--quiet', 'no progress on standard error', false)
  .addHelpText(
    'after',
    '\nNothing is left behind when it fails: results are written under a temporary name first.',
  )
  .action(
    async (options: {
      plate: string
      mends: string
      out: string
      scene?: string
      frames?: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => mendFootage(options, say, signal)),
  )

const withStop = async <T>(
  quiet: boolean,
  work: (say: (text: string) => void, signal: AbortSignal) => Promise<T>,
) => {
  const stop = new AbortController()
  setMaxListeners(0, stop.signal) // every picture that is being read listens to it
  process.on('SIGINT', () => stop.abort())
  process.on('SIGTERM', () => stop.abort())
  console.log(JSON.stringify(await work((text) => void (quiet || process.stderr.write(text)), stop.signal)))
}

program
  .command('track')
  .description('Follows points, pairs of points and areas through a plate.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--points <file>', 'points.json: what to follow, from which frame (docs/tracks-format.md)')
  .requiredOption('--out <file>', 'tracks.json, or a table when it ends in .csv')
  .option('--first-frame <number>', 'number of the first frame of a video', '1001')
  .addOption(new Option('--rate <fps>', 'frames a second of numbered pictures').default('', '24'))
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      points: string
      out: string
      firstFrame: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => trackFootage(options, say, signal)),
  )

program
  .command('cling')
  .description('Fits the paths of mends to the lines in the picture, on every frame.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json with roughly drawn paths')
  .requiredOption('--out <file>', 'mends.json with the paths that were found')
  .option(
    '--frame <number>',
    'the frame that the paths were drawn on; without it the frame of their last key',
  )
  .addOption(
    new Option('--rate <fps>', 'frames a second of numbered pictures').default('', 'as in the mends file'),
  )
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      mends: string
      out: string
      frame?: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => clingFootage(options, say, signal)),
  )

program
  .command('scene')
  .description('Works out how the background of a plate moves.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .option('--mends <file>', 'mends.json: what its areas cover is left out')
  .requiredOption('--out <file>', 'scene.json (docs/scene-format.md)')
  .option('--first-frame <number>', 'number of the first frame of a video, where no mends say it', '1001')
  .addOption(new Option('--rate <fps>', 'frames a second of numbered pictures').default('', '24'))
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      mends?: string
      out: string
      firstFrame: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => sceneOfFootage(options, say, signal)),
  )

program
  .command('survey')
  .description('Looks through a plate for bad sensor pixels, dust, still marks and cuts.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--out <file>', 'finds.json (docs/survey-format.md)')
  .option('--first-frame <number>', 'number of the first frame of a video', '1001')
  .addOption(new Option('--rate <fps>', 'frames a second of numbered pictures').default('', '24'))
  .option('--quiet', 'no progress on standard error', false)
  .action(async (options: { plate: string; out: string; firstFrame: string; rate: string; quiet: boolean }) =>
    withStop(options.quiet, (say, signal) => surveyFootage(options, say, signal)),
  )

program
  .command('accept')
  .description('Turns the finds of a survey into mends.')
  .requiredOption('--finds <file>', 'finds.json of the survey command')
  .option('--mends <file>', 'mends.json of the same plate, which they join')
  .option('--from <sureness>', 'how sure a find must be, 0 to 1', '0.8')
  .requiredOption('--out <file>', 'mends.json')
  .addOption(new Option('--rate <fps>', 'frames a second, where no mends say it').default('', '24'))
  .action(
    async (options: { finds: string; mends?: string; from: string; out: string; rate: string }) =>
      void console.log(JSON.stringify(await acceptFindsOf(options))),
  )

program
  .command('source')
  .description('Looks for places to copy from, for mends that need one.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json; what has a source keeps it')
  .requiredOption('--out <file>', 'mends.json with the sources')
  .option('--scene <file>', 'scene.json of the same plate')
  .addOption(
    new Option('--rate <fps>', 'frames a second of numbered pictures').default('', 'as in the mends file'),
  )
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      mends: string
      out: string
      scene?: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => suggestSourcesOf(options, say, signal)),
  )

program
  .command('follow')
  .description('Lets areas that rest go with the background, as the scene moves under them.')
  .requiredOption(
    '--mends <file>',
    'mends.json; areas that follow something, or have several keys, stay as they are',
  )
  .requiredOption('--scene <file>', 'scene.json of the same plate')
  .requiredOption('--out <file>', 'mends.json with the tracks')
  .action(
    async (options: { mends: string; scene: string; out: string }) =>
      void console.log(JSON.stringify(await followScene(options))),
  )

program
  .command('thing')
  .description(
    'Lets the areas of object mends go with the thing they were drawn round, between the frames with keys.',
  )
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json; areas that follow something stay as they are')
  .requiredOption('--scene <file>', 'scene.json of the same plate')
  .requiredOption('--out <file>', 'mends.json with the tracks')
  .option('--rate <fps>', 'frames a second of numbered pictures (default: that of the mends)', '')
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      mends: string
      scene: string
      out: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => followThings(options, say, signal)),
  )

program
  .command('mark')
  .description('Works out what the marks of mark mends look like by themselves, and takes them off.')
  .requiredOption('--plate <path>', 'a video, or numbered pictures as a pattern such as shot.%04d.png')
  .requiredOption('--mends <file>', 'mends.json with the marks drawn round')
  .option('--scene <file>', 'scene.json of the same plate: other frames then show what is under a mark')
  .requiredOption('--out <file>', 'mends.json that takes them off; their pictures go to marks/ beside it')
  .option('--rate <fps>', 'frames a second of numbered pictures (default: that of the mends)', '')
  .option('--quiet', 'no progress on standard error', false)
  .action(
    async (options: {
      plate: string
      mends: string
      scene?: string
      out: string
      rate: string
      quiet: boolean
    }) => withStop(options.quiet, (say, signal) => takeMarks(options, say, signal)),
  )

for (const command of program.commands) {
  if (command.options.some(({ long }) => long === '--plate'))
    command.option(
      '--take-damaged',
      'goes on over frames that came damaged, as the decoder has made them',
      false,
    )
}

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
