// @vitest-environment happy-dom
// The queue as it is in a browser: five hundred that wait, a check that was signed meanwhile, a storage that is full.
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { outbox, type Write } from './outbox'

const reading = (n: number): Write => ({
  method: 'POST',
  url: '/api/jobs/7/checks/input-float/readings',
  body: { way: 'dial_travel', travel: `0.${n}`, who: 'RT' },
  said: `0.${n}`,
  of: 'Input shaft end float, job 7',
  job: 7,
  check: 'input-float',
})

/** A server out of reach until it is there, and then answers so. */
function server(status: number, body: unknown) {
  const here = { there: false, keys: [] as string[] }
  vi.stubGlobal('fetch', (request: Request) => {
    if (!here.there) return Promise.reject(new TypeError('out of reach'))
    here.keys.push(request.headers.get('Idempotency-Key') ?? '')
    const headers = { 'Content-Type': 'application/problem+json' }
    return Promise.resolve(new Response(JSON.stringify(body), { status, headers }))
  })
  return here
}

beforeEach(() => {
  localStorage.clear()
  // One window: nobody to wait for.
  const locks = { request: (_: string, work: () => Promise<void>) => work() }
  Object.defineProperty(navigator, 'locks', { value: locks, configurable: true })
})
afterEach(() => vi.unstubAllGlobals())

test('five hundred that waited while the check was signed are each refused once, with what was typed', async () => {
  const signed = { type: 'signed', title: 'This check is signed off: reopen it first.', status: 409 }
  const at = server(409, signed)
  for (let n = 0; n < 500; n++) await outbox.add(reading(n))
  expect(outbox.now().waiting).toHaveLength(500)
  at.there = true
  await vi.waitFor(() => expect(outbox.now().waiting).toHaveLength(0), { timeout: 60_000, interval: 200 })
  const { refused, unreachable } = outbox.now()
  expect(unreachable).toBe(false)
  expect(refused.map(([, turned]) => turned.write.said)).toEqual(
    Array.from({ length: 500 }, (_, n) => `0.${n}`),
  )
  expect(refused.every(([, turned]) => turned.problem.title === signed.title)).toBe(true)
  expect(new Set(at.keys).size).toBe(500)
  expect(at.keys).toHaveLength(500)
}, 90_000)

test('where the browser keeps nothing more, that is said, and what was typed goes all the same', async () => {
  const at = server(200, {})
  await outbox.add(reading(1))
  const real = localStorage
  const full = (): never => {
    throw new DOMException('full', 'QuotaExceededError')
  }
  const get = (_: Storage, name: string | symbol): unknown => {
    const found: unknown = Reflect.get(real, name)
    if (name === 'setItem') return full
    return typeof found === 'function' ? (found as () => unknown).bind(real) : found
  }
  vi.stubGlobal('localStorage', new Proxy(real, { get }))
  await outbox.add(reading(2))
  vi.stubGlobal('localStorage', real)
  expect(outbox.now().waiting.map((w) => w.write.said)).toEqual(['0.1', '0.2'])
  expect(outbox.now().onlyHere).toBe(1)
  at.there = true
  await vi.waitFor(() => expect(outbox.now().waiting).toHaveLength(0), { timeout: 20_000, interval: 100 })
  expect(at.keys).toHaveLength(2)
  expect(outbox.now().onlyHere).toBe(0)
}, 30_000)
