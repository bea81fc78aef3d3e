/** Pictures of the whole clip, made by its survey: fetched when they are first looked at, and again after each survey. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'

export interface ClipPictures {
  readonly mean: ImageBitmap | null
  readonly spread: ImageBitmap | null
  /** Whether it has been asked for them; without a survey there are none. */
  readonly areKnown: boolean
  /** Has them fetched, anew where they are there already. */
  load(): void
}

export function useClipPictures(plateId: string): ClipPictures {
  const [pictures, setPictures] = useState<Pick<ClipPictures, 'mean' | 'spread' | 'areKnown'>>({
    mean: null,
    spread: null,
    areKnown: false,
  })
  const asked = useRef(0)
  const load = useCallback(() => {
    const turn = ++asked.current
    Promise.all([fetchPicture(plateId, 'mean'), fetchPicture(plateId, 'spread')])
      .then(([mean, spread]) => {
        if (turn === asked.current) setPictures({ mean, spread, areKnown: true })
      })
      .catch((cause: Error) =>
        toast.warning(
          `The pictures of the whole clip could not be fetched: ${cause.message} Choose them again.`,
          { id: 'looks' },
        ),
      )
  }, [plateId])
  useEffect(
    () => () => {
      asked.current++
    },
    [],
  )
  return useMemo(() => ({ ...pictures, load }), [pictures, load])
}

async function fetchPicture(plateId: string, viewTransform: 'mean' | 'spread'): Promise<ImageBitmap | null> {
  const response = await fetch(`/plates/${plateId}/looks/${viewTransform}`)
  if (response.status === 204) return null
  if (!response.ok) throw new Error(`the server said ${response.status}.`)
  return createImageBitmap(await response.blob())
}
