// What the shop goes by, and who works there.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useShop } from '../../api/queries'
import type { Schemas, Unit } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { unitName } from '../../domain/units'
import { useNotice } from '../../ui/Notices'
import { Labelled, Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'

type Shop = Schemas['Shop']
type Person = Schemas['Person']

export function ShopView() {
  useTitle('The shop')
  const { data: shop, error } = useShop()
  if (!shop && error) return <Trouble error={error as unknown as Refused} />
  if (!shop) return <Loading what="the shop" />
  return (
    <main className="mx-auto grid max-w-5xl gap-x-12 px-3 pb-16 sm:px-6 md:grid-cols-2">
      <h1 className="col-span-full py-5 text-3xl">The shop</h1>
      {/* Drawn anew once it has changed, so that the fields say what is so. */}
      <Sign key={shop.version} shop={shop} />
      <People people={shop.people} />
    </main>
  )
}

/** Writes something of the shop; it comes back as it is then. */
function useShopWrite<T>(write: (what: T) => Promise<Shop>) {
  const client = useQueryClient()
  return useMutation<Shop, Refused, T>({
    mutationFn: write,
    onSuccess: (fresh) => {
      client.setQueryData(['shop'], fresh)
      // Verdicts and choices go by the chance that is asked for.
      void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'shop' })
    },
    onError: () => void client.invalidateQueries({ queryKey: ['shop'] }),
  })
}

interface Said {
  name: string
  place: string
  unit: Unit
  floor: number
}

function Sign({ shop }: { shop: Shop }) {
  const { who } = useBench()
  const client = useQueryClient()
  const notice = useNotice()
  // A bench shows no inches as such.
  const unit: Unit = shop.unit === 'in' ? 'thou' : shop.unit
  const before: Said = { name: shop.name, place: shop.place, unit, floor: shop.floor }
  const [now, setNow] = useState({ ...before, floor: String(Math.round(shop.floor * 1000) / 10) })
  const put = useShopWrite((said: Said) => {
    const version = client.getQueryData<Shop>(['shop'])?.version ?? shop.version
    return answer(
      server.PUT('/api/shop', {
        params: { header: { 'Idempotency-Key': writeKey(), 'If-Match': `"${version}"` } },
        body: { ...said, who },
      }),
    )
  })
  const fault = (field: string) => (put.error?.problem.field === field ? put.error.problem.title : undefined)
  const floor = Number(now.floor.replace(',', '.').replace('%', ''))
  return (
    <form
      aria-label="What it goes by"
      onSubmit={(e) => {
        e.preventDefault()
        put.mutate(
          { ...now, floor: floor / 100 },
          {
            onSuccess: () =>
              notice({ said: 'The shop goes by this now.', undo: () => put.mutateAsync(before) }),
          },
        )
      }}
    >
      <Labelled label="Name" error={fault('name')}>
        {(id) => (
          <input
            id={id}
            className="field"
            value={now.name}
            maxLength={80}
            onChange={(e) => setNow({ ...now, name: e.target.value })}
          />
        )}
      </Labelled>
      <Labelled label="Where it is" error={fault('place')}>
        {(id) => (
          <input
            id={id}
            className="field"
            value={now.place}
            maxLength={200}
            onChange={(e) => setNow({ ...now, place: e.target.value })}
          />
        )}
      </Labelled>
      <Labelled
        label="Unit of the bench"
        hint="What a device shows until somebody chooses otherwise on it. No stored figure changes."
      >
        {(id) => (
          <select
            id={id}
            className="field"
            value={now.unit}
            onChange={(e) => setNow({ ...now, unit: e.target.value as Unit })}
          >
            {(['thou', 'mm', 'um'] as const).map((u) => (
              <option key={u} value={u}>
                {unitName[u]}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      <Labelled
        label="Chance to land in the window that is asked for, %"
        hint="Choices that reach it come first, and what does not is pointed out: 50 at least, below 100."
        error={fault('floor')}
      >
        {(id) => (
          <input
            id={id}
            className="field figure"
            inputMode="decimal"
            value={now.floor}
            onChange={(e) => setNow({ ...now, floor: e.target.value })}
          />
        )}
      </Labelled>
      {!['name', 'place', 'floor'].some((f) => fault(f)) && <Trouble error={put.error} />}
      <button className="press" disabled={put.isPending || !Number.isFinite(floor)}>
        Keep
      </button>
    </form>
  )
}

function People({ people }: { people: Person[] }) {
  const { who } = useBench()
  const notice = useNotice()
  const [initials, setInitials] = useState('')
  const [name, setName] = useState('')
  const put = useShopWrite((person: Person) =>
    answer(
      server.PUT('/api/people', {
        params: { header: { 'Idempotency-Key': writeKey() } },
        body: { ...person, who },
      }),
    ),
  )
  const fault = (field: string) => (put.error?.problem.field === field ? put.error.problem.title : undefined)
  const say = (person: Person, before: Person, said: string) =>
    put.mutate(person, { onSuccess: () => notice({ said, undo: () => put.mutateAsync(before) }) })
  const taken = people.some((p) => p.initials === initials.trim().toUpperCase())
  return (
    <section aria-label="People" className="max-md:mt-8">
      <h2 className="text-xl">People</h2>
      <ul className="ruled">
        {people.map((p) => (
          <li key={p.initials} className="flex flex-wrap items-center gap-x-4 py-1">
            <span className="figure w-14 text-lg font-bold">{p.initials}</span>
            <span className={`min-w-0 grow wrap-anywhere ${p.gone ? 'text-dim' : ''}`}>
              {p.name}
              {p.gone && ' · works here no longer'}
            </span>
            <button
              className="link min-h-12"
              disabled={put.isPending}
              aria-label={p.gone ? `${p.name} works here again` : `${p.name} works here no longer`}
              onClick={() =>
                say(
                  { ...p, gone: !p.gone },
                  p,
                  p.gone ? `${p.initials} works here again.` : `${p.initials} is not offered any more.`,
                )
              }
            >
              {p.gone ? 'works here again' : 'has left'}
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-5"
        aria-label="Somebody new"
        onSubmit={(e) => {
          e.preventDefault()
          put.mutate(
            { initials, name, gone: false },
            {
              onSuccess: () => {
                setInitials('')
                setName('')
                const kept = initials.trim().toUpperCase()
                notice({
                  said: `${kept} is in.`,
                  undo: () => put.mutateAsync({ initials: kept, name, gone: true }),
                })
              },
            },
          )
        }}
      >
        <h3 className="mb-2">Somebody new</h3>
        <Labelled
          label="Initials"
          hint="Two to four letters: they go on every record and stay."
          error={taken ? 'Somebody has these already: choose others.' : fault('initials')}
        >
          {(id) => (
            <input
              id={id}
              className="field figure uppercase"
              value={initials}
              maxLength={4}
              onChange={(e) => setInitials(e.target.value)}
            />
          )}
        </Labelled>
        <Labelled label="Name" error={fault('name')}>
          {(id) => (
            <input
              id={id}
              className="field"
              value={name}
              maxLength={80}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Labelled>
        {!['initials', 'name'].some((f) => fault(f)) && <Trouble error={put.error} />}
        <button className="press-quiet" disabled={put.isPending || taken || !initials.trim() || !name.trim()}>
          Put in
        </button>
      </form>
    </section>
  )
}
