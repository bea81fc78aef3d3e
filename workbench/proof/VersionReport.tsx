/** The report of a version: one page that stands by itself, for the screen and for paper. */
import type { MendDocument } from '../../core/document/document'
import { findFill } from '../../core/fill/registry'
import { parameterFields } from '../../core/parameterFields'
import {
  PROOF_MEASURES,
  PROOF_MEASURE_IDS,
  type FrameProof,
  worstOf,
  type ProofMeasure,
} from '../../core/proof/frameProof'
import type { Note } from '../../core/proof/notes'
import type { FrameDigests } from '../../core/proof/proofStatus'
import { REVIEW_STATES, type Review } from '../../core/proof/review'
import type { Snag } from '../../core/snags/snags'
import { KINDS } from '../../core/document/kinds'

export interface ReportData {
  readonly productionName: string
  readonly shotName: string
  readonly version: {
    readonly number: number
    readonly format: string
    readonly fileName: string | null
    readonly firstFrame: number
    readonly lastFrame: number
    /** ISO 8601. */
    readonly finishedAt: string | null
    readonly isLossless: boolean
  }
  readonly document: MendDocument
  readonly proofs: readonly FrameProof[]
  readonly digests: readonly FrameDigests[]
  /** The most visible first, with crops of plate, result and difference as data addresses; null where the result is not stored. */
  readonly worst: readonly { readonly snag: Snag; readonly picture: string | null }[]
  readonly notes: readonly Note[]
  readonly reviews: readonly Review[]
}

const STYLE = `
  body { font: 14px/1.45 'Atkinson Hyperlegible Next', system-ui, sans-serif; color: #1b1b1b; background: #fff; max-width: 62rem; margin: 2rem auto; padding: 0 1rem }
  h1 { font-size: 1.5rem } h2 { font-size: 1.1rem; margin-top: 2rem }
  table { border-collapse: collapse; width: 100% } th, td { text-align: left; padding: 2px 8px 2px 0; border-bottom: 1px solid #ccc; vertical-align: top }
  td.n, th.n { text-align: right; font-variant-numeric: tabular-nums } code { font-size: .8rem; word-break: break-all }
  figure { display: inline-block; margin: 0 1rem 1rem 0; width: 300px; break-inside: avoid } figure img { width: 300px; image-rendering: pixelated } .soft { color: #555 }
  @media print { body { margin: 0; max-width: none } h2 { break-after: avoid } tr { break-inside: avoid } }
`

export function VersionReport(data: ReportData) {
  const { productionName, shotName, version, document, proofs, digests, notes, reviews } = data
  const title = `${shotName} · version ${version.number}`
  const changed = digests.reduce((sum, { changedOutside }) => sum + changedOutside, 0)
  const frames = version.lastFrame - version.firstFrame + 1
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <title>{`Report of ${title}`}</title>
        <style dangerouslySetInnerHTML={{ __html: STYLE }} />
      </head>
      <body>
        <p className="soft">{productionName}</p>
        <h1>{title}</h1>
        <p>
          Frames {version.firstFrame} to {version.lastFrame} · {version.format}
          {version.fileName ? ` · ${version.fileName}` : ''}
          {version.finishedAt ? ` · ${version.finishedAt}` : ''}
        </p>
        <p>
          <strong>Samples changed outside every mend: {changed}</strong>, measured on {digests.length} of{' '}
          {frames} frames
          {version.isLossless
            ? ', in the file itself.'
            : ', before it was encoded: this format is not lossless.'}
        </p>
        {reviews.length > 0 && (
          <p>
            {reviews
              .map(({ state, author, at }) => `${REVIEW_STATES[state]} by ${author}, ${at}`)
              .join(' · ')}
          </p>
        )}
        <h2>What was mended</h2>
        <Mends document={document} proofs={proofs} />
        <h2>Worst places</h2>
        <WorstPlaces worst={data.worst} document={document} />
        <h2>Notes</h2>
        <Notes notes={notes} />
        <h2>Frames</h2>
        <table>
          <thead>
            <tr>
              <th className="n">Frame</th>
              <th className="n">Changed outside</th>
              <th>SHA-256 of plate and result</th>
            </tr>
          </thead>
          <tbody>
            {digests.map((one) => (
              <tr key={one.frame}>
                <td className="n">{one.frame}</td>
                <td className="n">{one.changedOutside}</td>
                <td>
                  <code>{one.plateSha256}</code>
                  <br />
                  <code>{one.resultSha256}</code>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </body>
    </html>
  )
}

function Mends({ document, proofs }: { document: MendDocument; proofs: readonly FrameProof[] }) {
  return (
    <table>
      <thead>
        <tr>
          <th>Mend</th>
          <th>Kind</th>
          <th>Frames</th>
          <th>Fill</th>
          {PROOF_MEASURE_IDS.map((measure) => (
            <th key={measure} className="n">
              {PROOF_MEASURES[measure].title}, worst
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {document.mends.map((mend) => (
          <tr key={mend.id}>
            <td>
              {mend.name}
              {!mend.isOn && ' (off)'}
            </td>
            <td>{KINDS[mend.kind].title}</td>
            <td>
              {mend.span.firstFrame}–{mend.span.lastFrame}
            </td>
            <td>{fillWords(mend.fill)}</td>
            {PROOF_MEASURE_IDS.map((measure) => (
              <td key={measure} className="n">
                {worstWords(proofs, mend.id, measure)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** A fill with those of its settings that a person reads. */
function fillWords({ methodId, params }: MendDocument['mends'][number]['fill']): string {
  const method = findFill(methodId)
  if (!method) return methodId
  const settings = parameterFields(method.params).flatMap(({ name, title, unit }) => {
    const value = params[name]
    const isPlain = typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean'
    return isPlain ? [`${title} ${value}${unit ? ` ${unit}` : ''}`] : []
  })
  return settings.length > 0 ? `${method.title} (${settings.join(', ')})` : method.title
}

function worstWords(proofs: readonly FrameProof[], mendId: string, measure: ProofMeasure): string {
  const { unit } = PROOF_MEASURES[measure]
  const own = proofs.flatMap(({ mends }) => mends.filter((mend) => mend.mendId === mendId))
  const worst = worstOf(
    measure,
    own.map(({ numbers }) => numbers[measure]),
  )
  if (worst === null) return '–'
  return unit ? `${worst.toFixed(0)} ${unit}` : worst.toFixed(2)
}

function WorstPlaces({ worst, document }: Pick<ReportData, 'worst' | 'document'>) {
  if (worst.length === 0) return <p>Nothing stands out.</p>
  const nameOf = (id: string) => document.mends.find((mend) => mend.id === id)?.name ?? 'A mend of a view'
  return worst.map(({ snag, picture }) => (
    <figure key={`${snag.frame} ${snag.mendId} ${snag.reason}`}>
      {picture && <img src={picture} alt={`Plate, result and difference at frame ${snag.frame}`} />}
      <figcaption>
        {snag.frame}, {nameOf(snag.mendId)}: {snag.words}
      </figcaption>
    </figure>
  ))
}

function Notes({ notes }: { notes: readonly Note[] }) {
  if (notes.length === 0) return <p>None.</p>
  const top = notes.filter(({ answerTo }) => answerTo === null)
  return (
    <ul>
      {top.map((note) => (
        <li key={note.id}>
          {note.firstFrame === note.lastFrame ? note.firstFrame : `${note.firstFrame}–${note.lastFrame}`} ·{' '}
          {note.author}: {note.words} {note.resolvedBy !== null && <em>(resolved by {note.resolvedBy})</em>}
          <ul>
            {notes
              .filter(({ answerTo }) => answerTo === note.id)
              .map((answer) => (
                <li key={answer.id}>
                  {answer.author}: {answer.words}
                </li>
              ))}
          </ul>
        </li>
      ))}
    </ul>
  )
}
