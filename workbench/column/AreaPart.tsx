/** The Area part: which areas there are, the numbers of the selected one, what can be done with it. */
import { DropdownMenu } from 'radix-ui'
import { toast } from 'sonner'
import { insertPoint, removeArea, setRole } from '../../core/document/areaCommands'
import type { Area } from '../../core/document/areas'
import { areaToSvg } from '../../core/document/svg'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { saveText } from '../saveText'
import { selectedArea } from '../store/benchState'
import { drawTool, type DrawnShape } from '../tools/tool'
import { MatteImport } from './MatteImport'
import { ShapeFields } from './ShapeFields'
import { areaWords } from './summaries'
import { pasteInto } from './clipboard'
import { SMALL_BUTTON, MENU, MENU_ITEM } from './buttonStyles'

const SHAPES: Readonly<Record<Exclude<DrawnShape, 'point' | 'pair'>, string>> = {
  path: 'Path',
  ellipse: 'Ellipse',
  box: 'Box',
  outline: 'Outline',
}

export function AreaPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const area = useBench(selectedArea) ?? mend.areas[0]!
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const { selectArea } = store.getState()
  return (
    <>
      {mend.areas.length > 1 && (
        <ul
          className="mb-1 max-h-32 overflow-y-auto rounded-sm border border-line"
          aria-label="Areas of the mend"
        >
          {mend.areas.map((one, index) => (
            <li key={one.id}>
              <button
                type="button"
                aria-pressed={one.id === area.id}
                className={`w-full truncate px-2 py-0.5 text-left ${one.id === area.id ? 'bg-lifted text-ink' : 'text-soft hover:text-ink'}`}
                onClick={() => selectArea(one.id)}
              >
                {index + 1} · {areaWords(one, tracks, frame)}
                {one.role === 'holdout' ? ' · held out' : ''}
              </button>
            </li>
          ))}
        </ul>
      )}
      {area.shape === 'matte' ? (
        <p className="truncate py-1 text-soft">{area.pattern}</p>
      ) : (
        <ShapeFields key={area.id} mend={mend} area={area} />
      )}
      <AreaActions mend={mend} area={area} />
    </>
  )
}

function AreaActions({ mend, area }: { mend: MendRecord; area: Area }) {
  const { store } = useBenchParts()
  const clipboard = useBench((bench) => bench.clipboard)
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const { commit, setTool, copyArea } = store.getState()
  const canAddPoint = area.shape === 'path' || area.shape === 'outline'
  const isHoldout = area.role === 'holdout'
  const exportSvg = () => {
    const text = areaToSvg(mend, store.getState().tracks, frame, plate)
    saveText(text, `${mend.name}.${frame}.svg`)
  }
  return (
    <div className="mt-1.5 flex flex-wrap gap-1.5">
      {canAddPoint && (
        <button
          type="button"
          className={SMALL_BUTTON}
          title="Or double-click the line"
          onClick={() => commit(insertPoint(mend, area.id, longestSide(area), 0.5))}
        >
          Add a point
        </button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={SMALL_BUTTON}>Add an area…</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={MENU}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            {(['cover', 'holdout'] as const).map((role) => (
              <DropdownMenu.Group key={role}>
                <DropdownMenu.Label className="px-2 py-1 text-soft">
                  {role === 'cover' ? 'Covered too' : 'Held out: passes in front'}
                </DropdownMenu.Label>
                {(Object.keys(SHAPES) as (keyof typeof SHAPES)[]).map((shape) => (
                  <DropdownMenu.Item
                    key={shape}
                    className={MENU_ITEM}
                    onSelect={() => setTool(drawTool(shape, { for: 'area', mendId: mend.id, role }))}
                  >
                    {SHAPES[shape]}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={SMALL_BUTTON}>This area…</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={MENU}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            <DropdownMenu.Item
              className={MENU_ITEM}
              onSelect={() => commit(setRole(mend, area.id, isHoldout ? 'cover' : 'holdout'))}
            >
              {isHoldout ? 'Cover it' : 'Hold it out'}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => copyArea(area)}>
              Copy the area
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              disabled={area.shape === 'matte'}
              onSelect={() =>
                area.shape !== 'matte' &&
                copyArea(
                  area,
                  area.keys.map((key) => key.frame),
                )
              }
            >
              Copy its keys
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              disabled={!clipboard}
              onSelect={() => pasteInto(store, mend, area.id)}
            >
              {clipboard?.frames ? 'Paste keys here' : 'Paste an area'}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={exportSvg}>
              Export as SVG
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              onSelect={() => {
                const edit = removeArea(mend, area.id)
                if (edit) commit(edit)
                else toast.info('This is the only area. Delete the mend instead.')
              }}
            >
              Remove it
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <MatteImport mend={mend} />
    </div>
  )
}

/** Index of the point before the longest stretch, where a new one helps most. */
function longestSide(area: Area): number {
  if (area.shape !== 'path' && area.shape !== 'outline') return 0
  const { points } = area.keys[0]!
  const lengths = points
    .slice(1)
    .map((point, i) => (point.x - points[i]!.x) ** 2 + (point.y - points[i]!.y) ** 2)
  return lengths.indexOf(Math.max(...lengths))
}
