/** The Fill part: which method, its parameters, and where it copies from. */
import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'
import { fillChosen, setFill, setFillParam } from '../../core/document/commands'
import { fillMethods, findFill } from '../../core/fill/registry'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { SchemaForm } from '../fields/SchemaForm'
import { Gathered } from './Gathered'
import { evenSkin } from '../../core/fill/evenSkin/evenSkin'
import { liftShadow } from '../../core/fill/liftShadow/liftShadow'
import { SkinTools } from './SkinTools'
import { FaceHeldOut } from './FaceHeldOut'
import { RadiusOfFace } from './RadiusOfFace'
import { BrushPart } from './BrushPart'
import { MarkPart } from './MarkPart'
import { ShadeFound } from './ShadeFound'
import { SourceFields } from './SourceFields'
import { MENU, MENU_ITEM } from './buttonStyles'

export function FillPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const method = findFill(mend.fill.methodId)
  if (mend.kind === 'brush') return <BrushPart mend={mend} />
  if (!method) return <p className="text-snag">There is no fill “{mend.fill.methodId}”.</p>
  const params = method.params.parse(mend.fill.params)
  return (
    <>
      {mend.kind === 'mark' && <MarkPart mend={mend} />}
      <MethodMenu mend={mend} />
      {method.id === evenSkin.id && <SkinTools mend={mend} />}
      {method.id === evenSkin.id && <FaceHeldOut mend={mend} />}
      {method.id === evenSkin.id && <RadiusOfFace mend={mend} />}
      <SchemaForm
        schema={method.params}
        values={params}
        onChange={(name, value, title) =>
          preview(setFillParam(store.getState().records.get(mend.id)!, name, value, title))
        }
        onEnd={endGesture}
      />
      {method.needsSource?.(params) && <SourceFields mend={mend} />}
      {method.id === liftShadow.id && <ShadeFound mendId={mend.id} />}
      {method.steady?.gathers && <Gathered mend={mend} />}
      <Notes mendId={mend.id} />
    </>
  )
}

function MethodMenu({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const method = findFill(mend.fill.methodId)!
  const hasOnlyPaths = mend.areas.every((area) => area.role === 'holdout' || area.shape === 'path')
  const usable = fillMethods.filter((one) => !one.needsPath || hasOnlyPaths || one.id === method.id)
  const choose = (id: string) => {
    const next = fillMethods.find((one) => one.id === id)!
    if (next.id === method.id) return
    store.getState().commit(setFill(mend, fillChosen(mend, next, store.getState().frame), next.title))
  }
  return (
    <div className="grid grid-cols-[74px_1fr] items-center gap-2 py-1">
      <span className="text-soft">Method</span>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`Method: ${method.title}`}
          className="flex items-center justify-between rounded-sm bg-well px-2 py-1 text-left hover:bg-lifted"
          title={method.summary}
        >
          {method.title} <ChevronDown aria-hidden className="size-3.5 text-soft" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={`${MENU} max-h-[26rem] w-72`}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            <DropdownMenu.RadioGroup value={method.id} onValueChange={choose}>
              {usable.map((one) => (
                <DropdownMenu.RadioItem
                  key={one.id}
                  value={one.id}
                  className={`${MENU_ITEM} data-[state=checked]:bg-well`}
                >
                  <span className="block font-semibold">{one.title}</span>
                  <span className="block text-xs text-soft">{one.summary}</span>
                </DropdownMenu.RadioItem>
              ))}
            </DropdownMenu.RadioGroup>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  )
}

/** What the mend could not do on the present frame, in words. */
function Notes({ mendId }: { mendId: string }) {
  const { mended } = useShownFrame()
  const details = new Set(
    (mended?.notes ?? []).filter((note) => note.mendId === mendId).map((note) => note.detail),
  )
  return [...details].map((detail) => (
    <p key={detail} role="status" className="pt-1 text-caution">
      {detail}
    </p>
  ))
}
