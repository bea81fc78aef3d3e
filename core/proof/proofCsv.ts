import Papa from 'papaparse'
import { PROOF_MEASURE_IDS, type FrameProof } from './frameProof'
import type { FrameDigests } from './proofStatus'

/** Heads of the columns, in order. */
export const CSV_COLUMNS = ['frame', 'mend', 'mend_id', ...PROOF_MEASURE_IDS, 'changed_outside', 'plate_sha256', 'result_sha256'] as const // prettier-ignore

/**
 * All measures as a table: a line for every mend on every frame, one for a frame without any. RFC 4180, as `papaparse` writes it.
 * @param nameOf  The name of a mend.
 */
export function proofCsv(
  proofs: readonly FrameProof[],
  digests: readonly FrameDigests[],
  nameOf: (mendId: string) => string,
): string {
  const byFrame = new Map(digests.map((one) => [one.frame, one]))
  const lines = proofs.flatMap(({ frame, mends }) => {
    const { changedOutside, plateSha256, resultSha256 } = byFrame.get(frame) ?? { changedOutside: '', plateSha256: '', resultSha256: '' } // prettier-ignore
    const end = [changedOutside, plateSha256, resultSha256]
    if (mends.length === 0) return [[frame, '', '', ...PROOF_MEASURE_IDS.map(() => ''), ...end]]
    return mends.map(({ mendId, numbers }) => [
      frame,
      nameOf(mendId),
      mendId,
      ...PROOF_MEASURE_IDS.map((measure) => numbers[measure] ?? ''),
      ...end,
    ])
  })
  return Papa.unparse({ fields: [...CSV_COLUMNS], data: lines }, { newline: '\r\n', escapeFormulae: true })
}
