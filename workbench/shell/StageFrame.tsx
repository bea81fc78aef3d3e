/** What the stages on a shot look like, all of them alike: work column, picture, side tiles, strip; the bar above, the sheet of keys over it. */
import { CircleHelp } from 'lucide-react'
import type { ComponentProps, ComponentType, ReactNode } from 'react'
import { Picture, type OverlayProps } from '../picture/Picture'
import type { usePanel } from '../picture/usePanel'
import { ViewBar } from '../picture/ViewBar'
import { BenchTopBar } from './BenchTopBar'
import { SetAsideNotice } from './SetAsideNotice'
import { ShortcutSheet } from './ShortcutSheet'

interface StageFrameProps
  extends
    Pick<ComponentProps<typeof BenchTopBar>, 'productionName' | 'shot' | 'shots' | 'stage'>,
    Pick<ComponentProps<typeof ShortcutSheet>, 'shortcuts' | 'hasHandles'> {
  readonly panel: ReturnType<typeof usePanel>
  readonly sheet: readonly [isOpen: boolean, open: (isOpen: boolean) => void]
  /** In the bar, left of the keys. */
  readonly bar: ReactNode
  readonly column: ReactNode
  readonly Overlay: ComponentType<OverlayProps>
  /** There is a result to compare with the plate. */
  readonly compares?: boolean
  readonly tiles: ReactNode
  readonly strip: ReactNode
}

export function StageFrame({
  panel: { region, actions },
  sheet: [isSheetOpen, openSheet],
  bar,
  column,
  Overlay,
  compares,
  tiles,
  strip,
  shortcuts,
  hasHandles,
  ...place
}: StageFrameProps) {
  return (
    <div className="flex h-screen flex-col">
      <BenchTopBar {...place}>
        {bar}
        <button
          type="button"
          className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
          aria-label="Keys"
          title="?"
          onClick={() => openSheet(true)}
        >
          <CircleHelp aria-hidden className="size-4" />
        </button>
      </BenchTopBar>
      <SetAsideNotice />
      <main ref={region} className="flex min-h-0 grow">
        {column}
        <div className="flex min-w-0 grow flex-col">
          <div className="flex min-h-0 grow">
            <div className="flex min-w-0 grow flex-col">
              <Picture Overlay={Overlay} />
              <ViewBar onFit={actions.fit} onFull={actions.full} compares={compares} />
            </div>
            {tiles}
          </div>
          {strip}
        </div>
      </main>
      <ShortcutSheet
        shortcuts={shortcuts}
        hasHandles={hasHandles}
        isOpen={isSheetOpen}
        onOpenChange={openSheet}
      />
    </div>
  )
}
