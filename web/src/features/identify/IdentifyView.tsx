// What the box of a job really is.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useBox, useIdentity } from '../../api/queries'
import type { Box, Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { useIdentityAct } from '../../ui/acts'
import { Loading, Trouble } from '../../ui/Parts'
import { useNotice } from '../../ui/Notices'
import { useTitle } from '../../ui/title'
import { Questions } from './Questions'
import type { Judged } from './words'

type Identity = Schemas['JobIdentity']

export function IdentifyView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data, error } = useIdentity(jobNo)
  useTitle(box && `What it is, job ${jobNo}, ${box.title}`)
  const trouble = error ?? noBox
  if (trouble && !data) return <Trouble error={trouble as unknown as Refused} />
  if (!box || !data) return <Loading what="what is known of the box" />
  return <Identify box={box} of={data} />
}

function Identify({ box, of }: { box: Box; of: Identity }) {
  const { who } = useBench()
  const client = useQueryClient()
  const notice = useNotice()
  const job = box.job_no
  const path = { job_no: job }
  const give = useIdentityAct(job)
  /** The build that it is taken for is the right one: nothing else changes. */
  const settle = useMutation<Box, Refused, { variant: string; version: number }>({
    mutationFn: ({ variant, version }) =>
      answer(
        server.PUT('/api/jobs/{job_no}/revision', {
          params: { path, header: { 'Idempotency-Key': writeKey(), 'If-Match': `"${version}"` } },
          body: { revision: box.revision, variant, who },
        }),
      ),
    onSuccess: (fresh) => {
      client.setQueryData(['job', job], fresh)
      void client.invalidateQueries({ queryKey: ['identity', job] })
    },
  })
  const open = box.allowed.work
  const isOn = (c: Judged) => c.sheet_key === box.sheet_key && c.variant === of.variant
  const press = (c: Judged) => {
    if (isOn(c) && (of.known || of.builds.length === 0))
      return <p className="py-2 font-semibold">The job is on it</p>
    if (!open) return null
    if (isOn(c))
      return (
        <button
          className="press-quiet my-1"
          disabled={settle.isPending}
          onClick={() =>
            settle.mutate(
              { variant: c.variant, version: box.version },
              {
                onSuccess: (fresh) =>
                  notice({
                    said: `The box is ${c.name}.`,
                    undo: () => settle.mutateAsync({ variant: '', version: fresh.version }),
                  }),
              },
            )
          }
        >
          It is this one
        </button>
      )
    const to = new URLSearchParams({
      variant: c.variant,
      ...(c.sheet_key !== box.sheet_key && { sheet: c.sheet_key }),
    })
    return (
      <Link className="press-quiet my-1" to={`/jobs/${job}/revision?${to}`}>
        It is this one: see what would change
      </Link>
    )
  }
  const on = of.builds.find((b) => b.key === of.variant)
  return (
    <main className="mx-auto max-w-[80rem] px-3 pb-16 sm:px-6">
      <h1 className="pt-5 text-2xl">What is it really?</h1>
      <p className="text-dim">
        <Link className="link" to={`/jobs/${job}`}>
          Job {job}, {box.title}
        </Link>
        , is on {box.sheet}
        {on && (of.known ? `, ${on.name}` : ` and taken for ${on.name} until somebody says what it is`)}.
      </p>
      <Questions
        told={of}
        closed={!open}
        pending={give.isPending}
        error={give.error ?? settle.error}
        onAnswer={(said) => give.mutate({ act: 'answer', ...said })}
        onTakeBack={(question) => give.mutate({ act: 'take_back', question })}
        press={press}
      />
    </main>
  )
}
