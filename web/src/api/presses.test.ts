import { expect, test } from 'vitest'
import { pressing } from './presses'

/** A server that answers as told, in turn, and notes the keys; afterwards all is well. */
function server(answers: (number | 'lost')[]) {
  const keys: string[] = []
  let at = 0
  const send = pressing(
    (request) => {
      keys.push(request.headers.get('Idempotency-Key') ?? 'none')
      const next = answers.shift() ?? 200
      return next === 'lost'
        ? Promise.reject(new TypeError('lost'))
        : Promise.resolve(new Response(null, { status: next }))
    },
    { now: () => at, pause: () => Promise.resolve() },
  )
  const press = (key: string, body = '{"take":1}', path = '/api/drawers/acts') =>
    send(
      new Request(`http://bench${path}`, {
        method: 'POST',
        headers: key ? { 'Idempotency-Key': key } : {},
        body,
      }),
    ).then(
      (response) => response.status,
      () => 'lost',
    )
  return { keys, press, later: (ms: number) => (at += ms) }
}

test('an answer that is lost is asked for again under the same key', async () => {
  const { keys, press } = server(['lost', 500])
  expect(await press('a')).toBe(200)
  expect(keys).toEqual(['a', 'a', 'a'])
})

test('pressed again after that, it is the same press', async () => {
  const { keys, press } = server(['lost', 'lost', 'lost'])
  expect(await press('a')).toBe('lost')
  expect(await press('b')).toBe(200)
  // What has been answered is over: the next is another.
  expect(await press('c')).toBe(200)
  expect(keys).toEqual(['a', 'a', 'a', 'a', 'c'])
})

test('another press, one that was refused, and one of long ago are not', async () => {
  const { keys, press, later } = server(['lost', 'lost', 'lost', 200, 409])
  await press('a')
  expect(await press('b', '{"take":2}')).toBe(200)
  expect(await press('c', '{"take":3}')).toBe(409)
  expect(await press('d', '{"take":3}')).toBe(200)
  later(130_000)
  expect(await press('e')).toBe(200)
  expect(keys).toEqual(['a', 'a', 'a', 'b', 'c', 'd', 'e'])
})

test('what only asks goes as it is', async () => {
  const { keys, press } = server([500])
  expect(await press('')).toBe(500)
  expect(keys).toEqual(['none'])
})
