import { useBench, useBenchParts } from '../BenchContext'
import { CompareMenu } from '../compare/CompareMenu'
import { ViewMenu } from '../viewing/ViewMenu'
import { ShortcutKey } from '../shell/ShortcutKey'

/** @param compares  The stage has a result to compare. */
export function ViewBar({
  onFit,
  onFull,
  compares = false,
}: {
  onFit: () => void
  onFull: () => void
  compares?: boolean
}) {
  const { store, view } = useBenchParts()
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  const areOverlaysHidden = useBench((bench) => bench.areOverlaysHidden)
  const { latchPlate, hideOverlays } = store.getState()
  const button = (isOn: boolean) =>
    `rounded-sm px-2 py-0.5 ${isOn ? 'bg-[#5a5a5a] text-ink' : 'bg-panel text-soft hover:text-ink'}`
  return (
    <div
      className="flex h-9 shrink-0 items-center gap-1.5 bg-[#3a3a3a] px-3"
      role="toolbar"
      aria-label="View"
    >
      <button
        type="button"
        aria-pressed={!isPlateShown}
        className={button(!isPlateShown)}
        onClick={() => latchPlate(false)}
      >
        Mended
      </button>
      <button
        type="button"
        aria-pressed={isPlateShown}
        className={button(isPlateShown)}
        onClick={() => latchPlate(true)}
      >
        Plate <ShortcutKey id="plate" />
      </button>
      <button
        type="button"
        aria-pressed={!areOverlaysHidden}
        className={button(!areOverlaysHidden)}
        onClick={() => hideOverlays(!areOverlaysHidden)}
      >
        Guides <ShortcutKey id="overlays" />
      </button>
      {compares && <CompareMenu />}
      <ViewMenu />
      <span className="grow" />
      <button type="button" className={button(false)} onClick={onFit}>
        Fit <ShortcutKey id="fit" />
      </button>
      <button type="button" className={button(false)} onClick={onFull}>
        100 % <ShortcutKey id="full" />
      </button>
      <span className="w-16 text-right font-mono text-ink" data-testid="zoom">
        {Math.round(view.scale * 100)} %
      </span>
    </div>
  )
}
