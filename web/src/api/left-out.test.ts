import { expect, test } from 'vitest'
import { leftOut, onLeftOut, sorted } from './left-out'

test('what a list leaves out is named once, until the list is whole again', async () => {
  let named: object[] = []
  const send = sorted(() => {
    const headers = named.length > 0 ? { 'Left-Out': encodeURIComponent(JSON.stringify(named)) } : undefined
    return Promise.resolve(Response.json([], { headers }))
  })
  const ask = (list: string) => send(new Request(`http://bench/api/${list}`))
  let changes = 0
  const end = onLeftOut(() => (changes += 1))
  await ask('jobs')
  expect([leftOut(), changes]).toEqual([[], 0])
  named = [{ job_no: 7, why: 'job 7 cannot be read: “the day after” is no day' }]
  await ask('jobs')
  await ask('parts')
  expect(leftOut()).toEqual(named)
  named = []
  await ask('jobs')
  expect(leftOut()).toHaveLength(1)
  await ask('parts')
  expect([leftOut(), changes]).toEqual([[], 4])
  end()
})
