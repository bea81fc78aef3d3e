import { Link } from 'react-router'

/** Says in time that the disk is nearly full; nothing while there is room enough. */
export function RoomNotice({ words }: { readonly words: string | null }) {
  if (words === null) return null
  return (
    <p role="status" className="my-3 rounded-sm border border-caution px-3 py-2 text-caution">
      {words}{' '}
      <Link to="/productions" className="underline">
        Productions and bin
      </Link>
    </p>
  )
}
