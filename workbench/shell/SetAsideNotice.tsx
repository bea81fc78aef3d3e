/** Says that edits were set aside, until they are kept as a file or given up. */
import { useEffect, useState } from 'react'
import { useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { saveText } from '../saveText'
import { forgetAside, heldAside, type SetAside } from '../store/setAside'

export function SetAsideNotice() {
  const { shotId } = useBenchParts()
  const [held, setHeld] = useState<SetAside>([])
  useEffect(() => setHeld(heldAside(shotId)), [shotId])
  if (held.length === 0) return null
  const count = held.reduce((sum, { edits }) => sum + edits.length, 0)
  return (
    <p role="alert" className="flex items-center gap-3 border-b border-line bg-raised px-3 py-1 text-caution">
      <span className="grow">
        {count === 1 ? 'An edit' : `${count} edits`} could not be stored and {count === 1 ? 'is' : 'are'} set
        aside in this browser. {held[0]!.message}
      </span>
      <button
        type="button"
        className={SMALL_BUTTON}
        onClick={() => saveText(JSON.stringify(held, null, 1), `${shotId}-set-aside.json`)}
      >
        Keep as a file
      </button>
      <button
        type="button"
        className={SMALL_BUTTON}
        onClick={() => {
          forgetAside(shotId)
          setHeld([])
        }}
      >
        Give up
      </button>
    </p>
  )
}
