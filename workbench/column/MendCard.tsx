import { CSS } from '@dnd-kit/utilities'
import { useSortable } from '@dnd-kit/sortable'
import { DropdownMenu } from 'radix-ui'
import { Ellipsis, GripVertical } from 'lucide-react'
import { useEffect, useState } from 'react'
import { v4 as newId } from 'uuid'
import { duplicateMend, moveMend, removeMend, rename, setOn } from '../../core/document/commands'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { inStackOrder } from '../../core/document/document'
import { CopyMends } from '../recipes/CopyMends'
import { KeepRecipe, ManageRecipes } from '../recipes/RecipeDialogs'
import { RecipeMenu } from '../recipes/RecipeMenu'
import { useRecipes } from '../recipes/useRecipes'
import { Modal } from '../shell/Modal'
import { selectedMends } from '../store/benchState'
import { MENU_ITEM } from './buttonStyles'
import { StitchRow } from '../strip/StitchRow'
import { MendParts } from './MendParts'
import { KIND_ICONS } from './NewMend'

/** Asks the card of a mend (its id in `detail`) to open its name for typing. */
export const RENAME_EVENT = 'fillagrant:rename'

interface MendCardProps {
  readonly mend: MendRecord
  readonly number: number
  readonly isSelected: boolean
  /** Selected along with another. */
  readonly isAlso: boolean
}

export function MendCard({ mend, number, isSelected, isAlso }: MendCardProps) {
  const { store } = useBenchParts()
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id: mend.id })
  const plate = useBench((bench) => bench.plate)
  const [isRenaming, setRenaming] = useState(false)
  const { commit, select, toggleSelected } = store.getState()
  const Icon = KIND_ICONS[mend.kind]
  const notes = useNotes(mend.id)
  useEffect(() => {
    const open = (event: Event) => (event as CustomEvent<string>).detail === mend.id && setRenaming(true)
    window.addEventListener(RENAME_EVENT, open)
    return () => window.removeEventListener(RENAME_EVENT, open)
  }, [mend.id])
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`border-b border-line ${isSelected ? 'border-l-3 border-l-thread bg-raised' : isAlso ? 'border-l-3 border-l-soft bg-raised' : 'border-l-3 border-l-transparent'} ${isDragging ? 'relative z-10 opacity-80' : ''}`}
      data-testid="mend-card"
    >
      <div className="flex items-center gap-1.5 px-2 pt-2">
        <button
          ref={setActivatorNodeRef}
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Reorder ${mend.name}`}
          className="touch-none text-soft"
        >
          <GripVertical aria-hidden className="size-3.5" />
        </button>
        <span className="w-4 text-right font-mono text-soft">{number}</span>
        <Icon aria-hidden className="size-4" />
        {isRenaming ? (
          <NameInput
            name={mend.name}
            onDone={(name) => {
              setRenaming(false)
              if (name && name !== mend.name) commit(rename(mend, name))
            }}
          />
        ) : (
          <button
            type="button"
            aria-expanded={isSelected}
            className={`min-w-0 grow truncate text-left ${isSelected ? 'font-semibold' : ''} ${mend.isOn ? '' : 'text-soft line-through'}`}
            onClick={(event) => {
              if (event.shiftKey || event.ctrlKey || event.metaKey) toggleSelected(mend.id)
              else select(isSelected ? null : mend.id)
            }}
            onDoubleClick={() => setRenaming(true)}
          >
            {mend.name}
          </button>
        )}
        {notes && (
          <span className="text-caution" title={notes}>
            {notes}
          </span>
        )}
        <button
          type="button"
          role="switch"
          aria-checked={mend.isOn}
          aria-label={`${mend.name} on`}
          className="w-9 rounded-xs text-right text-soft hover:text-ink"
          onClick={() => commit(setOn(mend, !mend.isOn))}
        >
          {mend.isOn ? 'on' : 'off'}
        </button>
        <CardMenu mend={mend} onRename={() => setRenaming(true)} />
      </div>
      <div className="px-9 pb-2">
        <StitchRow mend={mend} firstFrame={plate.firstFrame} lastFrame={plate.lastFrame} height={8} />
      </div>
      {isSelected && <MendParts mend={mend} />}
    </li>
  )
}

/** What the mend could not do on the present frame. */
function useNotes(mendId: string): string | null {
  const note = useShownFrame().mended?.notes.find((one) => one.mendId === mendId)
  return note ? (note.reason === 'outside-picture' ? 'outside' : 'look') : null
}

function NameInput({ name, onDone }: { name: string; onDone: (name: string | null) => void }) {
  return (
    <input
      aria-label="Name"
      autoFocus
      defaultValue={name}
      maxLength={80}
      className="min-w-0 grow rounded-xs bg-well px-1"
      onFocus={(event) => event.target.select()}
      onBlur={(event) => onDone(event.target.value.trim())}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') onDone(event.currentTarget.value.trim())
        if (event.key === 'Escape') onDone(null)
      }}
    />
  )
}

function CardMenu({ mend, onRename }: { mend: MendRecord; onRename: () => void }) {
  const { store } = useBenchParts()
  const [dialog, setDialog] = useState<'keep' | 'recipes' | 'copy' | null>(null)
  const { recipes, load } = useRecipes()
  const close = () => setDialog(null)
  /** The mend, and those that are selected along with it. */
  const meant = (): MendRecord[] => {
    const selected = selectedMends(store.getState())
    return selected.some(({ id }) => id === mend.id) ? selected : [mend]
  }
  const { commit } = store.getState()
  const items: readonly (readonly [string, string, () => void])[] = [
    ['Duplicate', 'D', () => commit(duplicateMend(store.getState().records, mend, newId()))],
    ['Rename', 'F2', onRename],
    ['Move up', '', () => step(-1)],
    ['Move down', '', () => step(1)],
    ['Delete', 'Del', () => commit(removeMend(mend))],
  ]
  const step = (by: -1 | 1) => {
    const { records } = store.getState()
    const stack = inStackOrder(records.values())
    const at = stack.findIndex((one) => one.id === mend.id)
    const to = at + by
    if (to < 0 || to >= stack.length) return
    const others = stack.filter((one) => one.id !== mend.id)
    commit(moveMend(records, mend, to === 0 ? null : others[to - 1]!))
  }
  return (
    <>
      <DropdownMenu.Root onOpenChange={(isOpen) => isOpen && load()}>
        <DropdownMenu.Trigger
          aria-label={`More for ${mend.name}`}
          className="rounded-xs p-0.5 text-soft hover:text-ink"
        >
          <Ellipsis aria-hidden className="size-4" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            className="z-20 w-48 rounded-sm border border-line bg-raised p-1 shadow-xl"
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            {items.map(([words, key, act]) => (
              <DropdownMenu.Item
                key={words}
                className="flex cursor-pointer justify-between rounded-xs px-2 py-1 outline-none data-highlighted:bg-lifted"
                onSelect={act}
              >
                {words} <span className="font-mono text-soft">{key}</span>
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Separator className="my-1 border-t border-line" />
            <RecipeMenu
              meant={meant}
              recipes={recipes}
              onKeep={() => setDialog('keep')}
              onManage={() => setDialog('recipes')}
            />
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setDialog('copy')}>
              Copy to other shots…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Modal title="Keep a recipe" isOpen={dialog === 'keep'} onClose={close}>
        <KeepRecipe mend={mend} recipes={recipes} onDone={close} />
      </Modal>
      <Modal title="Recipes" isOpen={dialog === 'recipes'} onClose={close}>
        <ManageRecipes recipes={recipes} />
      </Modal>
      <Modal title="Copy to other shots" isOpen={dialog === 'copy'} onClose={close}>
        <CopyMends mends={meant()} onDone={close} />
      </Modal>
    </>
  )
}
