/** The page in the browser takes over what the server has written. */
import { setNonce } from 'get-nonce'
import { StrictMode, startTransition } from 'react'
import { hydrateRoot } from 'react-dom/client'
import { HydratedRouter } from 'react-router/dom'

// Menus and dialogs keep the page from scrolling by a style of their own.
const { nonce } = document.querySelector<HTMLScriptElement>('script[nonce]') ?? {}
if (nonce) setNonce(nonce)

startTransition(() => {
  hydrateRoot(
    document,
    <StrictMode>
      <HydratedRouter />
    </StrictMode>,
  )
})
