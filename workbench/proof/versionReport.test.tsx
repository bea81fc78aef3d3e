import { renderToStaticMarkup } from 'react-dom/server'
import { DOCUMENT_FORMAT, DOCUMENT_VERSION } from '../../core/document/document'
import type { MendProof } from '../../core/proof/frameProof'
import { sampleMend } from '../../tests/fixtures/sampleMend'
import { VersionReport, type ReportData } from './VersionReport'

const numbers = (over: Partial<MendProof['numbers']>): MendProof['numbers'] => ({ seam: null, flicker: null, residue: null, grain: null, sharpness: null, sure: null, seen: null, ...over }) // prettier-ignore
const HOSTILE = '</style><script>alert("1")</script>'
const mend = sampleMend({ name: HOSTILE })

const DATA: ReportData = {
  productionName: 'Lamplighter',
  shotName: 'LM_010',
  version: {
    number: 2,
    format: 'PNG pictures',
    fileName: 'LM_010_v002.zip',
    firstFrame: 1001,
    lastFrame: 1002,
    finishedAt: '2026-11-30T10:00:00.000Z',
    isLossless: true,
  },
  document: {
    format: DOCUMENT_FORMAT,
    version: DOCUMENT_VERSION,
    mends: [mend],
    tracks: [],
  } as unknown as ReportData['document'],
  proofs: [
    { frame: 1001, mends: [{ mendId: mend.id, numbers: numbers({ seam: 1.25, grain: 0.5, seen: 97.4 }), overTime: null }], snags: [] }, // prettier-ignore
    { frame: 1002, mends: [{ mendId: mend.id, numbers: numbers({ seam: 2.5, grain: 1.4, seen: 99 }), overTime: null }], snags: [] }, // prettier-ignore
  ],
  digests: [
    { frame: 1001, plateSha256: 'a'.repeat(64), resultSha256: 'b'.repeat(64), changedOutside: 0 },
    { frame: 1002, plateSha256: 'c'.repeat(64), resultSha256: 'd'.repeat(64), changedOutside: 0 },
  ],
  worst: [],
  notes: [],
  reviews: [],
}

const report = (over: Partial<ReportData> = {}) => renderToStaticMarkup(<VersionReport {...DATA} {...over} />)

test('it says what was mended, by which fill, and of each measure the worst', () => {
  const html = report()
  expect(html).toContain('Frames 1001 to 1002')
  expect(html).toContain('Samples changed outside every mend: 0')
  expect(html).toContain('measured on 2 of 2 frames, in the file itself.')
  expect(html).toContain('>2.50<')
  // Of grain, half as much is worse than 1.4 times as much.
  expect(html).toContain('>0.50<')
  expect(html).toContain('>97 %<')
  expect(html).toContain('d'.repeat(64))
  expect(html).toContain('Nothing stands out.')
})

test('names, notes and file names are text, whatever stands in them; the page loads nothing', () => {
  const note = { id: 'n', versionNumber: null, answerTo: null, firstFrame: 1001, lastFrame: 1002, x: null, y: null, words: HOSTILE, author: '"><b>', at: '', resolvedBy: HOSTILE } // prettier-ignore
  const html = report({
    shotName: HOSTILE,
    notes: [note, { ...note, id: 'm', answerTo: 'n' }],
    version: { ...DATA.version, fileName: HOSTILE },
    reviews: [{ state: 'approved', author: HOSTILE, at: '2026-11-30T10:00:00.000Z' }],
  })
  expect(html).not.toContain('<script')
  expect(html).not.toContain('<b>')
  expect(html.match(/<style>/g)).toHaveLength(1)
  expect(html).not.toMatch(/(src|href)="(?!data:)/)
  expect(html).toContain('1001–1002')
})

test('samples that changed, frames that were not measured, a lossy file: each is said', () => {
  const html = report({
    digests: [{ ...DATA.digests[0]!, changedOutside: 12 }],
    version: { ...DATA.version, isLossless: false },
    worst: [{ snag: { mendId: 'gone', frame: 1002, reason: 'flicker', x: 1, y: 1, words: 'It flickers.', weight: 2 }, picture: 'data:image/png;base64,AA==' }], // prettier-ignore
  })
  expect(html).toContain('Samples changed outside every mend: 12')
  expect(html).toContain('measured on 1 of 2 frames, before it was encoded: this format is not lossless.')
  expect(html).toContain('1002, A mend of a view: It flickers.')
  expect(html).toContain('src="data:image/png;base64,AA=="')
})
