/** The shot's document as the bench has it: what workers are given. */
import { inStackOrder } from '../../core/document/document'
import type { MendRecords } from '../../core/document/edits'
import type { MendRecord } from '../../core/document/mend'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Scene } from '../../core/scene/scene'
import type { BenchState } from './benchState'

const made = new WeakMap<MendRecords, ShotDocument>()

/** The same object as long as nothing in it has changed. */
export function shotDocumentOf(
  { records, tracks, plate }: Pick<BenchState, 'records' | 'tracks' | 'plate'>,
  scene: Scene | null,
): ShotDocument {
  const known = made.get(records)
  if (known?.tracks === tracks && known.plate === plate && known.scene === scene) return known
  const document: ShotDocument = { mends: inStackOrder(records.values()), tracks, plate, scene }
  made.set(records, document)
  return document
}

/** The document with one mend as it would be. */
export const withStandIn = (document: ShotDocument, standIn: MendRecord | null): ShotDocument =>
  standIn
    ? { ...document, mends: document.mends.map((mend) => (mend.id === standIn.id ? standIn : mend)) }
    : document
