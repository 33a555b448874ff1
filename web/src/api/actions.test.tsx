// @vitest-environment happy-dom
// @vitest-environment-options { "url": "http://bench.test/" }
// Each act on a check: where it goes, what it carries, and that it says which version it was made on.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act as settle, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { beforeEach, expect, test, vi } from 'vitest'
import { checkOf } from '../../test/bench'
import { Bench } from '../domain/session'
import { useAct, type Act } from './actions'

// The client takes its way to the network up when it is loaded: what stands in for it is there before.
const net = vi.hoisted(() => {
  const net = { requests: [] as Request[], answers: () => new Response() }
  globalThis.fetch = (request) => {
    net.requests.push(request as Request)
    return Promise.resolve(net.answers())
  }
  return net
})

beforeEach(() => {
  net.requests.length = 0
  net.answers = () => Response.json({ version: 8 })
})

function acting() {
  const client = new QueryClient()
  const nothing = () => {}
  const bench = {
    unit: 'thou' as const,
    setUnit: nothing,
    who: 'RT',
    setWho: nothing,
    theme: 'light' as const,
    setTheme: nothing,
  }
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <Bench.Provider value={bench}>{children}</Bench.Provider>
    </QueryClientProvider>
  )
  const { result } = renderHook(() => useAct(checkOf({ job_no: 3, check_key: 'float', version: 7 })), {
    wrapper,
  })
  return { client, result }
}

const CASES: [Act, string, string, object][] = [
  [{ act: 'way', way: 'feeler' }, 'PUT', '/way', { way: 'feeler', who: 'RT' }],
  [{ act: 'fitted', typed: '40' }, 'PUT', '/fitted', { typed: '40', unit: 'thou', who: 'RT' }],
  [
    {
      act: 'aim',
      aiming: { window: 'own', low: '1', high: '5', school: 'middle', from: '', to: '', reason: 'runs hot' },
    },
    'PUT',
    '/aim',
    {
      window: 'own',
      low: '1',
      high: '5',
      school: 'middle',
      from: '',
      to: '',
      reason: 'runs hot',
      unit: 'thou',
      who: 'RT',
    },
  ],
  [{ act: 'usual', counts: true }, 'PUT', '/usual', { counts: true, who: 'RT' }],
  [
    { act: 'lay', plates: ['steel', 'friction'], soaked: true, springs: 18 },
    'POST',
    '/pack',
    { plates: ['steel', 'friction'], soaked: true, springs: 18, who: 'RT' },
  ],
  [
    { act: 'choose', pieces: [{ thickness_nm: 1_050_000, grade: 'marked', count: 1 }] },
    'POST',
    '/choose',
    { pieces: [{ thickness_nm: 1_050_000, grade: 'marked', count: 1 }], who: 'RT' },
  ],
  [
    { act: 'choose', pieces: [], insteadOf: { family: 'rings', out: 2_000_000 } },
    'POST',
    '/choose',
    { pieces: [], family_key: 'rings', out_nm: 2_000_000, who: 'RT' },
  ],
  [
    { act: 'shims', left: '4', right: '', moved: true },
    'POST',
    '/shims',
    { left: '4', right: '', unit: 'thou', moved: true, who: 'RT' },
  ],
  [{ act: 'let-go' }, 'POST', '/let-go', { who: 'RT' }],
  [{ act: 'fit' }, 'POST', '/fit', { who: 'RT', put_back: false }],
  [{ act: 'fit', putBack: true }, 'POST', '/fit', { who: 'RT', put_back: true }],
  [{ act: 'sign', reason: '' }, 'POST', '/sign', { who: 'RT', reason: '' }],
  [{ act: 'reopen', reason: 'worn' }, 'POST', '/reopen', { who: 'RT', reason: 'worn' }],
]

test.each(CASES)('%j goes to its place', async (act, method, path, body) => {
  const { client, result } = acting()
  settle(() => result.current.mutate(act))
  await waitFor(() => expect(result.current.isSuccess).toBe(true))
  const [request] = net.requests
  expect(net.requests).toHaveLength(1)
  expect(request?.method).toBe(method)
  expect(new URL(request?.url ?? '').pathname).toBe(`/api/jobs/3/checks/float${path}`)
  expect(await request?.json()).toEqual(body)
  expect(request?.headers.get('If-Match')).toBe('"7"')
  expect(request?.headers.get('Idempotency-Key')).toMatch(/^[0-9a-f-]{36}$/)
  // What comes back is what is shown from now on.
  expect(client.getQueryData(['check', 3, 'float'])).toEqual({ version: 8 })
})

test('what is refused is told, and the check is looked at anew', async () => {
  const problem = { type: 'stale', title: 'Somebody was here meanwhile.', status: 412 }
  net.answers = () => Response.json(problem, { status: 412 })
  const { client, result } = acting()
  const anew = vi.spyOn(client, 'invalidateQueries')
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  await waitFor(() => expect(result.current.isError).toBe(true))
  expect(result.current.error?.problem).toEqual(problem)
  expect(anew).toHaveBeenCalledWith({ queryKey: ['check', 3, 'float'] })
})
