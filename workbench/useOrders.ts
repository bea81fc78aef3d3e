/** Orders to the server, as JSON; what comes of each is told in a toast. */
import { useEffect } from 'react'
import { useFetcher } from 'react-router'
import { toast } from 'sonner'

export type Answer<Done extends object = object> =
  ({ readonly ok: true; readonly words: string } & Done) | { readonly ok: false; readonly message: string }

export interface Orders<Order> {
  order(order: Order): void
  readonly isBusy: boolean
}

/** @param action  The address that takes them. @param onDone  Told once one is carried out. */
export function useOrders<Order, Done extends object = object>(
  action: string,
  onDone?: (answer: Extract<Answer<Done>, { readonly ok: true }>) => void,
): Orders<Order> {
  const fetcher = useFetcher<Answer<Done>>()
  const data = fetcher.data as Answer<Done> | undefined
  useEffect(() => {
    if (!data) return
    if (!data.ok) toast.error(data.message, { duration: 8000 })
    else {
      toast.success(data.words)
      onDone?.(data)
    }
    // Each answer is told once, whoever listens by then.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data])
  return {
    order: (order) => void fetcher.submit(order as Parameters<typeof fetcher.submit>[0], { method: 'post', action, encType: 'application/json' }),
    isBusy: fetcher.state !== 'idle',
  }
}
