// What a box is that has no job yet: asked at the door, and taken along to its card.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, server, type Refused } from '../../api/client'
import { forget, keep, keptJson } from '../../domain/session'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import { takeAlong } from '../bench/card'
import { Questions } from './Questions'
import type { AnswerIn, Identified, Judged } from './words'

const SEEN = 'seen-at-door'

function seenBefore(): AnswerIn[] {
  const found = keptJson(SEEN)
  return Array.isArray(found) ? (found as AnswerIn[]) : []
}

export function AtDoorView() {
  useTitle('What is it?')
  const navigate = useNavigate()
  const [answers, setAnswers] = useState(seenBefore)
  const client = useQueryClient()
  const ask = (answers: AnswerIn[]) => answer(server.POST('/api/identity', { body: { answers } }))
  const key = (answers: AnswerIn[]) => ['identity-at-door', answers]
  const { data, error } = useQuery({
    queryKey: key(answers),
    placeholderData: (before) => before,
    queryFn: () => ask(answers),
  })
  // What is no answer is told at its field, and what was answered before stands.
  const give = useMutation<Identified, Refused, AnswerIn[]>({
    mutationFn: ask,
    onSuccess: (told, next) => {
      client.setQueryData(key(next), told)
      put(next)
    },
  })
  const put = (next: AnswerIn[]) => {
    keep(SEEN, JSON.stringify(next))
    setAnswers(next)
  }
  const refused = error as unknown as Refused | null
  const take = (c: Judged) => {
    forget(SEEN)
    takeAlong({ sheetKey: c.sheet_key, variant: c.variant, identity: answers })
    void navigate(`/?new=${c.sheet_key}`)
  }
  return (
    <main className="mx-auto max-w-[80rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-3 pt-5">
        <h1 className="mr-auto text-2xl">What is it?</h1>
        {answers.length > 0 && (
          <button className="press-quiet print:hidden" onClick={() => put([])}>
            Begin anew
          </button>
        )}
        <button className="press-quiet print:hidden" onClick={() => window.print()}>
          Print the questions
        </button>
      </div>
      <p className="text-dim">
        What is in the box is often not what its papers say. Count and measure, then open the job on what it
        is; what was seen goes with it.
      </p>
      {data ? (
        data.candidates.length === 0 ? (
          <p className="py-6 text-lg">
            There is no sheet yet.{' '}
            <Link className="link" to="/sheets/new">
              Write one
            </Link>
          </p>
        ) : (
          <Questions
            told={data}
            pending={give.isPending}
            error={give.error}
            onAnswer={(said) => give.mutate([...answers.filter((a) => a.question !== said.question), said])}
            onTakeBack={(question) => give.mutate(answers.filter((a) => a.question !== question))}
            press={(c) => (
              <button className="press-quiet my-1" onClick={() => take(c)}>
                Open a job on it
              </button>
            )}
          />
        )
      ) : refused ? (
        <Trouble error={refused} />
      ) : (
        <Loading what="the questions" />
      )}
    </main>
  )
}
