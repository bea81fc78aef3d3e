/** The work column: the list of mends, the selected one unfolded into its five parts. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core'
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { moveMend } from '../../core/document/commands'
import { useBench, useBenchParts } from '../BenchContext'
import { inStackOrder } from '../../core/document/document'
import { drawTool } from '../tools/tool'
import { ShortcutKey } from '../shell/ShortcutKey'
import { selectedMend } from '../store/benchState'
import { NextStroke } from './BrushPart'
import { MendCard } from './MendCard'
import { NewMend } from './NewMend'

export function WorkColumn() {
  const { store } = useBenchParts()
  const records = useBench((bench) => bench.records)
  const selectedId = useBench((bench) => bench.selectedId)
  const alsoSelected = useBench((bench) => bench.alsoSelected)
  const stack = inStackOrder(records.values())
  // Before its first stroke a brush has no card.
  const beginsBrush = useBench(
    (bench) => bench.tool.kind === 'brush' && selectedMend(bench)?.kind !== 'brush',
  )
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )

  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    const from = stack.findIndex((mend) => mend.id === active.id)
    const to = stack.findIndex((mend) => mend.id === over.id)
    const others = stack.filter((mend) => mend.id !== active.id)
    store.getState().commit(moveMend(records, stack[from]!, to === 0 ? null : others[to - 1]!))
  }

  return (
    <section aria-label="Mends" className="flex w-80 shrink-0 flex-col border-r border-line bg-panel">
      <header className="flex h-11 shrink-0 items-center gap-2 border-b border-line px-3">
        <h1 className="font-semibold">Mends</h1>
        <span className="font-mono text-soft">{stack.length}</span>
        <span className="grow" />
        <NewMend />
      </header>
      <div className="min-h-0 grow overflow-y-auto">
        {beginsBrush && (
          <div className="px-3 py-2">
            <h2 className="pb-1 font-semibold">New brush</h2>
            <NextStroke />
          </div>
        )}
        {beginsBrush && stack.length === 0 ? null : stack.length === 0 ? (
          <div className="p-4 text-soft">
            <p className="text-ink">Nothing is mended yet.</p>
            <p className="mt-1">
              Press <ShortcutKey id="newMend" /> and choose what is wrong. For a wire, click along it on the
              picture and press Enter: it finds the line, follows it, and the wire vanishes.
            </p>
            <button
              type="button"
              className="mt-3 rounded-sm border border-line px-3 py-1 hover:bg-raised"
              onClick={() => store.getState().setTool(drawTool('path', { for: 'mend', kind: 'wire' }))}
            >
              Draw a wire
            </button>
          </div>
        ) : (
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
            <SortableContext items={stack.map((mend) => mend.id)} strategy={verticalListSortingStrategy}>
              <ol>
                {stack.map((mend, index) => (
                  <MendCard
                    key={mend.id}
                    mend={mend}
                    number={index + 1}
                    isSelected={mend.id === selectedId}
                    isAlso={alsoSelected.has(mend.id)}
                  />
                ))}
              </ol>
            </SortableContext>
          </DndContext>
        )}
      </div>
    </section>
  )
}
