/** The strip under the picture on the Mend stage: scene, snags, stitches and pins of every mend. */
import { useBench, useBenchParts } from '../BenchContext'
import { ShortcutKey } from '../shell/ShortcutKey'
import { inStackOrder } from '../../core/document/document'
import { selectedArea, selectedMend } from '../store/benchState'
import { DamagedRow } from './DamagedRow'
import { GatherRow } from './GatherRow'
import { Pins } from './Pins'
import { SceneRow } from './SceneRow'
import { SnagLine } from './SnagLine'
import { SourcePins } from './SourcePins'
import { StitchRow } from './StitchRow'
import { GUTTER_PX, StripFrame } from './StripFrame'
import { SureChart } from './SureChart'

export function Strip() {
  const words = (
    <>
      <ShortcutKey id="pinBack" /> <ShortcutKey id="pinOn" /> pins · <ShortcutKey id="snagBack" />{' '}
      <ShortcutKey id="snagOn" /> snags
    </>
  )
  return <StripFrame words={words} rows={(share) => <Rows share={share} />} />
}

function Rows({ share }: { share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const snags = useBench((bench) => bench.snags)
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  const records = useBench((bench) => bench.records)
  const selected = useBench(selectedMend)
  const area = useBench(selectedArea)
  const track = useBench((bench) => (bench.trackId === null ? undefined : bench.tracks.get(bench.trackId)))
  const stack = inStackOrder(records.values())
  const count = lastFrame - firstFrame + 1
  return (
    <>
      {snags.length > 0 && (
        <div className="relative">
          <span className="absolute text-xs text-snag" style={{ left: -GUTTER_PX + 10 }}>
            {snags.length} {snags.length === 1 ? 'snag' : 'snags'}
          </span>
          <SnagLine snags={snags} share={share} />
        </div>
      )}
      <DamagedRow share={share} />
      <SceneRow firstFrame={firstFrame} lastFrame={lastFrame} gutterPx={GUTTER_PX} />
      {stack.map((mend) => (
        <div key={mend.id} className={`relative ${mend.id === selected?.id ? 'bg-raised' : ''}`}>
          <button
            type="button"
            className={`absolute truncate text-left text-xs ${mend.id === selected?.id ? 'text-ink' : 'text-soft'}`}
            style={{ left: -GUTTER_PX + 10, width: GUTTER_PX - 16 }}
            onClick={() => store.getState().select(mend.id)}
          >
            {mend.name}
          </button>
          <div className="py-1">
            <StitchRow mend={mend} snags={snags} firstFrame={firstFrame} lastFrame={lastFrame} height={9} />
          </div>
          {mend.id === selected?.id && area && area.shape !== 'matte' && (
            <Pins mend={mend} area={area} firstFrame={firstFrame} count={count} />
          )}
          {mend.id === selected?.id && <SourcePins mend={mend} share={share} />}
          {mend.id === selected?.id && <GatherRow mend={mend} share={share} />}
          {mend.id === selected?.id && track && (
            <SureChart track={track} firstFrame={firstFrame} lastFrame={lastFrame} />
          )}
        </div>
      ))}
    </>
  )
}
