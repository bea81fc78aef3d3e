/** The `accept` command: finds of a survey become mends. */
import { randomUUID } from 'node:crypto'
import { basename } from 'node:path'
import { acceptedIds, acceptFinds } from '../core/document/acceptFinds'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  mendsInStackOrder,
  serialiseDocument,
  type MendDocument,
} from '../core/document/document'
import { applyEdit, type MendRecords } from '../core/document/edits'
import { surveySchema, type Survey } from '../core/survey/finds'
import { tracksById } from '../core/document/tracks'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'
import { readDocument, readRate, writeWhole } from './plate'
import { readFileOf } from './readFileOf'

export interface AcceptOptions {
  readonly finds: string
  /** mends.json of the same plate, which the finds join; absent: a new one. */
  readonly mends?: string
  /** How sure a find must be, 0 to 1. */
  readonly from: string
  readonly rate: string
  readonly out: string
}

export interface AcceptSummary {
  /** Finds that were mended by this. */
  readonly accepted: number
  /** Finds that are mended already. */
  readonly alreadyMended: number
  /** Finds that are not sure enough. */
  readonly leftOut: number
  readonly mends: number
  readonly out: string
}

/** @throws CliError with the exit code. */
export async function acceptFindsOf(options: AcceptOptions): Promise<AcceptSummary> {
  const from = Number(options.from)
  if (!(from >= 0 && from <= 1) || options.from.trim() === '')
    throw new CliError(EXIT.usage, `--from must be a number from 0 to 1. Received ${options.from}`)
  const survey = await readFileOf(surveySchema, options.finds, { what: 'finds', command: 'survey' })
  const document = options.mends ? await readDocument(options.mends) : emptyDocument(survey, options)
  requireSamePlate(document, survey, options)
  const records: MendRecords = new Map(
    document.mends.map((mend, i) => [mend.id, { ...mend, stackIndex: i + 1 }]),
  )
  const known = acceptedIds(records)
  const open = survey.finds.filter((find) => !known.has(find.id))
  const sure = open.filter((find) => find.sure >= from)
  const { firstFrame, frameCount } = survey.plate
  const range = { firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const edit = acceptFinds(records, sure, range, randomUUID)
  const now = edit ? applyEdit({ records, tracks: tracksById(document.tracks) }, edit).records : records
  await writeWhole(options.out, serialiseDocument({ ...document, mends: mendsInStackOrder(now.values()) }))
  return {
    accepted: sure.length,
    alreadyMended: survey.finds.length - open.length,
    leftOut: open.length - sure.length,
    mends: now.size,
    out: options.out,
  }
}

function emptyDocument({ plate }: Survey, { finds, rate }: AcceptOptions): MendDocument {
  return {
    format: DOCUMENT_FORMAT,
    version: DOCUMENT_VERSION,
    plate: { name: basename(finds, '.json'), ...plate, frameRate: readRate(rate, { num: 24, den: 1 }) },
    mends: [],
    tracks: [],
  }
}

function requireSamePlate({ plate }: MendDocument, survey: Survey, { mends, finds }: AcceptOptions): void {
  const isSame = (['width', 'height', 'firstFrame', 'frameCount'] as const).every(
    (name) => plate[name] === survey.plate[name],
  )
  if (isSame) return
  const words = ({ width, height, firstFrame, frameCount }: Survey['plate']) =>
    `${width} × ${height} px, frames ${firstFrame} to ${firstFrame + frameCount - 1}`
  throw new CliError(
    EXIT.mends,
    `${mends} was made for ${words(plate)}; ${finds} is of ${words(survey.plate)}. Use finds of the same plate.`,
  )
}
