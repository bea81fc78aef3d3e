import { DropdownMenu } from 'radix-ui'
import {
  Brush,
  Circle,
  CircleDot,
  Grid2x2X,
  RectangleHorizontal,
  ScanFace,
  Spline,
  SquareDashed,
  SquareStack,
  Shapes,
  SunDim,
  type LucideIcon,
} from 'lucide-react'
import { useEffect, useState } from 'react'
import { KINDS } from '../../core/document/kinds'
import type { Recipe } from '../../core/document/recipes'
import type { MendKind } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { recipeWords } from '../recipes/recipeWords'
import { useRecipes } from '../recipes/useRecipes'
import { Key } from '../shell/Key'
import { brushTool, drawTool } from '../tools/tool'
import { MENU, MENU_ITEM } from './buttonStyles'

export const KIND_ICONS: Readonly<Record<MendKind, LucideIcon>> = {
  wire: Spline,
  rig: RectangleHorizontal,
  dust: Circle,
  pixel: Grid2x2X,
  mark: SquareDashed,
  shadow: SunDim,
  object: Shapes,
  blemish: CircleDot,
  skin: ScanFace,
  brush: Brush,
  patch: SquareStack,
}

export const OPEN_PALETTE_EVENT = 'fillagrant:new-mend'

/** Asks what is wrong. Only kinds whose fill exists are offered; a letter chooses. */
export function NewMend() {
  const { store } = useBenchParts()
  const clings = useBench((bench) => bench.clingsWhenDrawn)
  const [isOpen, setOpen] = useState(false)
  const { recipes, load } = useRecipes()
  useEffect(() => {
    const open = () => {
      load()
      setOpen(true)
    }
    window.addEventListener(OPEN_PALETTE_EVENT, open)
    return () => window.removeEventListener(OPEN_PALETTE_EVENT, open)
  }, [load])
  const choose = (kind: MendKind, recipe?: Recipe) => {
    if (kind === 'brush') {
      // The next stroke begins a brush of its own.
      store.getState().select(null)
      store.getState().setTool(brushTool)
    } else store.getState().setTool(drawTool(KINDS[kind].shape, { for: 'mend', kind, recipe }))
    setOpen(false)
  }
  return (
    <DropdownMenu.Root
      open={isOpen}
      onOpenChange={(next) => {
        if (next) load()
        setOpen(next)
      }}
    >
      <DropdownMenu.Trigger className="flex items-center gap-2 rounded-sm bg-thread px-2.5 py-1 font-semibold text-well">
        New mend <Key isOnThread>N</Key>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={6}
          collisionPadding={8}
          className="z-20 max-h-(--radix-dropdown-menu-content-available-height) w-160 overflow-y-auto rounded-sm border border-line bg-raised p-1 shadow-xl"
          onCloseAutoFocus={(event) => event.preventDefault()}
          onKeyDown={(event) => {
            const kind = (Object.keys(KINDS) as MendKind[]).find(
              (one) => KINDS[one].letter === event.key.toLowerCase(),
            )
            if (!kind || event.ctrlKey || event.metaKey) return
            event.preventDefault()
            choose(kind)
          }}
        >
          <DropdownMenu.Label className="px-2 py-1 text-soft">What is wrong?</DropdownMenu.Label>
          <div className="grid grid-cols-2">
            {(Object.keys(KINDS) as MendKind[]).map((kind) => {
              const Icon = KIND_ICONS[kind]
              return (
                <DropdownMenu.Item
                  key={kind}
                  className="flex cursor-pointer gap-2 rounded-xs p-2 outline-none data-highlighted:bg-lifted"
                  onSelect={() => choose(kind)}
                >
                  <Icon aria-hidden className="mt-0.5 size-4 shrink-0" />
                  <span className="min-w-0 grow">
                    <span className="block font-semibold">{KINDS[kind].title}</span>
                    <span className="block text-soft">{KINDS[kind].help}</span>
                  </span>
                  <span className="self-start">
                    <Key>{KINDS[kind].letter.toUpperCase()}</Key>
                  </span>
                </DropdownMenu.Item>
              )
            })}
          </div>
          {recipes.length > 0 && (
            <DropdownMenu.Sub>
              <DropdownMenu.SubTrigger
                className={`${MENU_ITEM} flex justify-between data-[state=open]:bg-lifted`}
              >
                By a recipe <span aria-hidden>›</span>
              </DropdownMenu.SubTrigger>
              <DropdownMenu.Portal>
                <DropdownMenu.SubContent className={MENU} sideOffset={4}>
                  {recipes.map(({ id, recipe }) => (
                    <DropdownMenu.Item
                      key={id}
                      className={MENU_ITEM}
                      onSelect={() => choose(recipe.kind, recipe)}
                    >
                      <span className="block font-semibold">{recipe.name}</span>
                      <span className="block text-xs text-soft">
                        {KINDS[recipe.kind].title} · {recipeWords(recipe)}
                      </span>
                    </DropdownMenu.Item>
                  ))}
                </DropdownMenu.SubContent>
              </DropdownMenu.Portal>
            </DropdownMenu.Sub>
          )}
          <DropdownMenu.Separator className="my-1 border-t border-line" />
          <DropdownMenu.CheckboxItem
            checked={clings}
            onCheckedChange={(on) => store.getState().setClings(on)}
            onSelect={(event) => event.preventDefault()}
            className="flex cursor-pointer items-center gap-2 rounded-xs px-2 py-1.5 outline-none data-highlighted:bg-lifted"
          >
            <span aria-hidden className="grid size-4 place-items-center rounded-xs border border-soft">
              <DropdownMenu.ItemIndicator className="size-2 rounded-xs bg-ink" />
            </span>
            Wires and rigs cling as soon as they are drawn
          </DropdownMenu.CheckboxItem>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
