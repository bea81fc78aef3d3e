import { Progress } from 'radix-ui'

/** How far something is: 0 to 1, or null while that is not known. */
export function ProgressBar({ share, label }: { share: number | null; label: string }) {
  const percent = share === null ? null : Math.round(share * 100)
  return (
    <Progress.Root
      value={percent}
      aria-label={label}
      className="h-1.5 w-full overflow-hidden rounded-full bg-lifted"
    >
      <Progress.Indicator
        className="h-full bg-thread transition-[width]"
        style={{ width: `${percent ?? 8}%` }}
      />
    </Progress.Root>
  )
}
