// What the server answers, as the program takes it up: data, a refusal with its title, or nobody there.
import { expect, test } from 'vitest'
import { Refused, answer, lost, notRefused, outOfReach, writeKey } from './client'

const said = (status: number, rest: { data?: unknown; error?: unknown } = {}) =>
  Promise.resolve({ ...rest, response: new Response(status === 204 ? null : '', { status }) })

const refusal = (call: Promise<unknown>) =>
  call.then(
    () => {
      throw new Error('it was not refused')
    },
    (error: unknown) => error as Refused,
  )

test('data is handed on', async () => {
  await expect(answer(said(200, { data: { version: 3 } }))).resolves.toEqual({ version: 3 })
  await expect(answer(said(204))).resolves.toBeUndefined()
})

test('a problem is thrown as the server told it', async () => {
  const problem = { type: 'conflict', title: 'This check is signed off.', status: 409 }
  const error = await refusal(answer(said(409, { error: problem })))
  expect(error).toBeInstanceOf(Refused)
  expect(error.message).toBe('This check is signed off.')
  expect(outOfReach(error)).toBe(false)
})

test.each(['', null, '<html>'])('an answer that is no problem, %j, still says its status', async (error) => {
  const refused = await refusal(answer(said(500, { error })))
  expect(refused.problem).toMatchObject({ status: 500, title: 'The server answered 500.' })
})

test('nobody there is out of reach, and nothing is lost', async () => {
  const error = await refusal(answer(Promise.reject(new TypeError('failed to fetch'))))
  expect(error.problem).toEqual(lost)
  expect(outOfReach(error)).toBe(true)
})

test('only what may pass is tried again', () => {
  const of = (status: number) => outOfReach(new Refused({ ...lost, status }))
  expect([0, 503, 409, 422, 500].map(of)).toEqual([true, true, false, false, false])
  expect(outOfReach(new TypeError('failed to fetch'))).toBe(true)
})

test('no two writes have one key', () => {
  const keys = Array.from({ length: 200 }, writeKey)
  expect(new Set(keys).size).toBe(200)
  expect(keys.every((key) => /^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f-]{17}$/.test(key))).toBe(true)
})

test('what the server is at fault for is not refused', () => {
  const of = (status: number) => notRefused(new Refused({ ...lost, status }))
  expect([0, 503, 500, 502, 408, 429].map(of)).toEqual([true, true, true, true, true, true])
  expect([404, 409, 412, 422].map(of)).toEqual([false, false, false, false])
})
