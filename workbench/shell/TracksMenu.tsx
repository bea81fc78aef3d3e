/** Tracks of the shot as files: out as JSON or a table, in from either. */
import { DropdownMenu } from 'radix-ui'
import { Route } from 'lucide-react'
import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import {
  parseFile,
  serialiseTracks,
  tracksFileSchema,
  tracksFromCsv,
  tracksToCsv,
  type FileResult,
} from '../../core/document/trackFiles'
import type { Size } from '../../core/image/rect'
import type { Track } from '../../core/document/tracks'
import { useBench, useBenchParts } from '../BenchContext'
import { MENU, MENU_ITEM } from '../column/buttonStyles'
import { useFilePick } from '../fields/FilePick'
import { saveText } from '../saveText'

export function TracksMenu() {
  const { store, shotId } = useBenchParts()
  const tracks = useBench((bench) => bench.tracks)
  const { selectTrack } = store.getState()

  const save = (ending: 'json' | 'csv') => {
    const { plate, tracks: all } = store.getState()
    const list = [...all.values()]
    const text =
      ending === 'csv'
        ? tracksToCsv(list)
        : serialiseTracks({
            format: 'fillagrant-tracks',
            version: 1,
            plate: { width: plate.width, height: plate.height },
            tracks: list,
          })
    saveText(text, `${shotId}.tracks.${ending}`)
  }
  const load = async (file: File) => {
    const text = await file.text()
    const result: FileResult<readonly Track[]> = /\.csv$/i.test(file.name)
      ? tracksFromCsv(text, newId)
      : readJson(text, store.getState().plate)
    if (!result.ok) return void toast.error(`${file.name} was not read. ${result.detail}`)
    // A track brought in twice stays two tracks.
    const changes = result.value
      .map((track) => ({ ...track, id: newId() }))
      .map((track) => ({ id: track.id, before: null, after: track }))
    if (changes.length > 0)
      store.getState().commit({ label: `Bring in ${changes.length} tracks`, changes: [], tracks: changes })
  }
  const file = useFilePick('Tracks file', '.json,.csv', (chosen) => void load(chosen))
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
        aria-label="Tracks"
        title="Tracks"
      >
        <Route aria-hidden className="size-4" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={6} className={MENU}>
          <DropdownMenu.Label className="px-2 py-1 text-soft">
            {tracks.size === 0 ? 'No tracks yet' : 'Tracks of this shot'}
          </DropdownMenu.Label>
          {[...tracks.values()].map((track) => (
            <DropdownMenu.Item key={track.id} className={MENU_ITEM} onSelect={() => selectTrack(track.id)}>
              {track.name} <span className="text-soft">· {track.frames.length} frames</span>
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 border-t border-line" />
          <DropdownMenu.Item className={MENU_ITEM} disabled={tracks.size === 0} onSelect={() => save('json')}>
            Export as JSON
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} disabled={tracks.size === 0} onSelect={() => save('csv')}>
            Export as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => file.pick()}>
            Import tracks…
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
      {file.input}
    </DropdownMenu.Root>
  )
}

function readJson(text: string, plate: Size): FileResult<readonly Track[]> {
  const result = parseFile(tracksFileSchema, text)
  if (!result.ok) return result
  const { plate: made, tracks } = result.value
  if (made.width === plate.width && made.height === plate.height) return { ok: true, value: tracks }
  return {
    ok: false,
    detail: `It was made on ${made.width} × ${made.height} px; this plate has ${plate.width} × ${plate.height} px.`,
  }
}
