import { Pin, PinOff } from 'lucide-react'

interface KeyPinProps {
  readonly title: string
  readonly frame: number
  readonly isKeyed: boolean
  /** What a key there changes. */
  readonly means: string
  onToggle(): void
}

/** Keys a setting on the frame that is looked at, or takes its key away. */
export function KeyPin({ title, frame, isKeyed, means, onToggle }: KeyPinProps) {
  const what = title.toLowerCase()
  return (
    <button
      type="button"
      aria-label={isKeyed ? `Remove the key of ${what} at ${frame}` : `Key ${what} at ${frame}`}
      aria-pressed={isKeyed}
      title={isKeyed ? `Remove its key at ${frame}` : `Key it at ${frame}: ${means}`}
      className={`rounded-sm p-1 hover:bg-lifted ${isKeyed ? 'text-thread' : 'text-soft'}`}
      onClick={onToggle}
    >
      {isKeyed ? <PinOff aria-hidden className="size-3.5" /> : <Pin aria-hidden className="size-3.5" />}
    </button>
  )
}
