import { expect, test, vi } from 'vitest'
import { Nobody, signed } from './signed'

const write = (body: object, key = 'k') =>
  new Request('http://bench/api/jobs', {
    method: 'POST',
    headers: key ? { 'Idempotency-Key': key } : {},
    body: JSON.stringify(body),
  })

test.each([
  ['a write that names somebody', write({ who: 'ab', title: 't' }), { who: 'ab', title: 't' }],
  ['what is no write', write({ who: '' }, ''), { who: '' }],
  ['a write that asks for nobody', write({ title: 't' }), { title: 't' }],
])('%s goes as it is', async (_, request, body) => {
  const ask = vi.fn(() => Promise.resolve('cd'))
  const sent = await signed(async (r) => Response.json(await r.json()), ask)(request)
  expect(await sent.json()).toEqual(body)
  expect(ask).not.toHaveBeenCalled()
})

test('a write by nobody goes on with whoever is named, under its key', async () => {
  const ask = () => Promise.resolve('cd')
  const send = signed(
    async (r) => Response.json({ ...((await r.json()) as object), key: r.headers.get('Idempotency-Key') }),
    ask,
  )
  const sent = await send(write({ who: '', title: 't' }))
  expect(await sent.json()).toEqual({ who: 'cd', title: 't', key: 'k' })
})

test('a write by nobody is not sent where nobody is named', async () => {
  const send = vi.fn(() => Promise.resolve(Response.json({})))
  await expect(signed(send, () => Promise.resolve(''))(write({ who: '' }))).rejects.toThrow(Nobody)
  expect(send).not.toHaveBeenCalled()
})

test('a file sent by nobody goes on as it is, with whoever is named in its address', async () => {
  const send = signed(
    async (r) => Response.json([new URL(r.url).search, await r.text(), r.headers.get('Idempotency-Key')]),
    () => Promise.resolve('cd'),
  )
  const file = (search: string) =>
    new Request(`http://bench/api/job-file?${search}`, {
      method: 'POST',
      headers: { 'Idempotency-Key': 'k' },
      body: new Blob(['PK\u0003']),
    })
  expect(await (await send(file('who='))).json()).toEqual(['?who=cd', 'PK\u0003', 'k'])
  expect(await (await send(file('who=ab'))).json()).toEqual(['?who=ab', 'PK\u0003', 'k'])
})
