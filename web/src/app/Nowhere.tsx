import { Link, useRouteError } from 'react-router'
import { useTitle } from '../ui/title'

/** What stands at an address that is none. */
export function Nowhere() {
  useTitle('Nothing here')
  return (
    <main className="mx-auto max-w-3xl px-3 py-10 sm:px-6">
      <h1 className="text-2xl">There is nothing at this address</h1>
      <p className="mt-2">The address may be mistyped, or what was here has been taken away.</p>
      <p className="mt-4 flex flex-wrap gap-3">
        <Link className="press" to="/">
          To the bench
        </Link>
        <button className="press-quiet" onClick={() => history.back()}>
          Back to where you were
        </button>
      </p>
    </main>
  )
}

/** What stands where a view could not be fetched or drawn. */
export function Stumbled() {
  useTitle('Not shown')
  const error = useRouteError()
  return (
    <main className="mx-auto max-w-3xl px-3 py-10 sm:px-6">
      <h1 className="text-2xl">This page could not be shown</h1>
      <p className="mt-2">
        Nothing that was kept is lost. Where the server does not answer, it can be shown again once it does.
      </p>
      <p className="mt-2 text-sm break-words text-dim">{error instanceof Error ? error.message : ''}</p>
      <p className="mt-4 flex flex-wrap gap-3">
        <button className="press" onClick={() => location.reload()}>
          Show it again
        </button>
        <Link className="press-quiet" to="/">
          To the bench
        </Link>
      </p>
    </main>
  )
}
