import { useContext } from 'react'
import { isRouteErrorResponse, Links, Meta, Outlet, Scripts, ScrollRestoration } from 'react-router'
import { Toaster } from 'sonner'
import type { Route } from './+types/root'
import { whoAsks } from '../server/access/whoAsks.server'
import { NonceContext } from './nonce'
import { PlainHttpNotice } from './PlainHttpNotice'
import { ReachNotice } from './ReachNotice'
import './app.css'

export const meta: Route.MetaFunction = () => [{ title: 'Fillagrant' }]

export const links: Route.LinksFunction = () => [{ rel: 'icon', href: '/favicon.svg', type: 'image/svg+xml' }]

export function Layout({ children }: { children: React.ReactNode }) {
  const nonce = useContext(NonceContext)
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <meta name="color-scheme" content="dark" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <Toaster
          theme="dark"
          // Over the top of the picture, below the bar: nothing there can be pressed.
          position="top-center"
          offset={{ top: 52 }}
          toastOptions={{ style: { background: '#303030', border: '1px solid #444444', color: '#ececec' } }}
        />
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  )
}

export const loader = ({ request }: Route.LoaderArgs) => {
  const account = whoAsks(request)
  return { account: account && { name: account.name, role: account.role } }
}

/** Who is signed in stays the same while a page is open. */
export const shouldRevalidate = () => false

export default function App() {
  return (
    <>
      <Outlet />
      <ReachNotice />
      <PlainHttpNotice />
    </>
  )
}

export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
  const [title, detail] = isRouteErrorResponse(error)
    ? [
        error.status === 404 ? 'Not here' : `Error ${error.status}`,
        typeof error.data === 'string' ? error.data : error.statusText,
      ]
    : ['Something broke', error instanceof Error ? error.message : 'Unknown error']
  return (
    <main className="mx-auto mt-24 max-w-md p-6">
      <h1 className="text-xl font-bold">{title}</h1>
      <p className="mt-2 text-soft">{detail}</p>
      <p className="mt-2 text-soft">
        What was acknowledged as saved is safe. Reload the page, or go back to the shots.
      </p>
      <a href="/" className="mt-4 inline-block rounded-sm bg-thread px-3 py-1.5 font-semibold text-well">
        Shots
      </a>
    </main>
  )
}
