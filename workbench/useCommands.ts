/** Orders to the server, as JSON; what comes of each is told in a toast. */
import { useEffect, useRef } from 'react'
import { useFetcher } from 'react-router'
import { toast } from 'sonner'
import type { Answer } from '../core/answer'

export interface Commands<Command> {
  send(command: Command): void
  readonly isBusy: boolean
}

/** @param action  The address that takes them. @param onDone  Told once one is carried out. */
export function useCommands<Command, Done extends object = object>(
  action: string,
  onDone?: (answer: Extract<Answer<Done>, { readonly ok: true }>) => void,
): Commands<Command> {
  const fetcher = useFetcher<Answer<Done>>()
  const data = fetcher.data as Answer<Done> | undefined
  const told = useRef(data)
  const listener = useRef(onDone)
  useEffect(() => {
    listener.current = onDone
  })
  // Told once, and only when the page's own data is up to date again: who listens may look at it.
  const isBusy = fetcher.state !== 'idle'
  useEffect(() => {
    if (isBusy || !data || told.current === data) return
    told.current = data
    if (!data.ok) toast.error(data.message, { duration: 8000 })
    else {
      toast.success(data.words)
      listener.current?.(data)
    }
  }, [data, isBusy])
  return {
    send: (command) =>
      void fetcher.submit(command as Parameters<typeof fetcher.submit>[0], {
        method: 'post',
        action,
        encType: 'application/json',
      }),
    isBusy,
  }
}
