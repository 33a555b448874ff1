// @vitest-environment happy-dom
// @vitest-environment-options { "url": "http://bench.test/" }
// An act on a job: where it goes, what it carries, what is drawn, said and undone of it, and that it waits for the server.
import { QueryClient, QueryClientProvider, QueryObserver } from '@tanstack/react-query'
import { act as settle, fireEvent, renderHook, screen, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { checkOf } from '../../test/bench'
import { outbox } from '../api/outbox'
import type { CheckAct } from '../api/acts'
import { Bench } from '../domain/session'
import { useCheckAct } from '../ui/acts'
import { NoticesProvider } from '../ui/Notices'
import { beginSending } from './seen'

// The client takes its way to the network up when it is loaded: what stands in for it is there before.
const net = vi.hoisted(() => {
  const net = { requests: [] as Request[], answers: (): Response | null => new Response() }
  globalThis.fetch = (request) => {
    net.requests.push(request as Request)
    const answer = net.answers()
    return answer ? Promise.resolve(answer) : Promise.reject(new TypeError('out of reach'))
  }
  return net
})

const acted = (more: object = {}) =>
  Response.json({
    on: { of: 'check', view: { check_key: 'float', version: 8 } },
    stale: ['awaited'],
    ...more,
  })

beforeEach(() => {
  localStorage.clear()
  const locks = { request: (_: string, work: () => Promise<void>) => work() }
  Object.defineProperty(navigator, 'locks', { value: locks, configurable: true })
  net.requests.length = 0
  net.answers = () => acted()
})
afterEach(async () => {
  net.answers = () => acted()
  await vi.waitFor(() => expect(outbox.now().waiting).toHaveLength(0), { timeout: 10_000 })
})

function acting() {
  const client = new QueryClient()
  beginSending(client)
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
      <Bench.Provider value={bench}>
        <NoticesProvider>{children}</NoticesProvider>
      </Bench.Provider>
    </QueryClientProvider>
  )
  const check = checkOf({ job_no: 3, check_key: 'float', version: 7 })
  client.setQueryData(['check', 3, 'float'], check)
  const { result } = renderHook(() => useCheckAct(check), { wrapper })
  return { client, result }
}

const sent = () => net.requests.filter((r) => r.method === 'POST')

test('an act carries what was done, by whom, on which version, and its answer is drawn', async () => {
  const { client, result } = acting()
  const did: CheckAct = { act: 'fitted', typed: '40', unit: 'thou' }
  settle(() => result.current.mutate(did))
  await waitFor(() => expect(result.current.isSuccess).toBe(true))
  const [request] = sent()
  expect(new URL(request?.url ?? '').pathname).toBe('/api/jobs/3/acts')
  expect(await request?.json()).toEqual({ act: { of: 'check', check: 'float', did }, who: 'RT' })
  expect(request?.headers.get('If-Match')).toBe('"7"')
  expect(request?.headers.get('Idempotency-Key')).toMatch(/^[0-9a-f-]{36}$/)
  expect(client.getQueryData(['check', 3, 'float'])).toEqual({ check_key: 'float', version: 8 })
})

test('what was asked before an act and answered after it does not bring back how it was', async () => {
  const { client, result } = acting()
  const key = ['check', 3, 'float']
  let answer: (view: object) => void = () => {}
  const asked = vi.fn(() => new Promise<object>((done) => (answer = done)))
  const poll = new QueryObserver(client, { queryKey: key, queryFn: asked })
  const end = poll.subscribe(() => {})
  await waitFor(() => expect(asked).toHaveBeenCalledTimes(1))
  const older = answer
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  await waitFor(() => expect(result.current.isSuccess).toBe(true))
  older({ check_key: 'float', version: 7 })
  // It is asked once more, for what is so now.
  await waitFor(() => expect(asked).toHaveBeenCalledTimes(2))
  expect(client.getQueryData(key)).toEqual({ check_key: 'float', version: 8 })
  answer({ check_key: 'float', version: 8 })
  end()
})

test('what the server says undoes it is offered, and is done on the version that came of it', async () => {
  const pieces = [{ thickness_nm: 1_016_000, grade: 'marked', count: 1 }]
  const act = { of: 'check', check: 'float', did: { act: 'let_go' } }
  net.answers = () => acted({ undoing: { said: 'chosen.', pieces, act } })
  const { result } = acting()
  settle(() => result.current.mutate({ act: 'choose', pieces: [] }))
  expect(await screen.findByText('40 thou chosen.')).toBeDefined()
  net.answers = () => acted()
  fireEvent.click(screen.getByRole('button', { name: 'Undo' }))
  expect(await screen.findByText('Undone.')).toBeDefined()
  const last = sent().at(-1)
  expect(await last?.json()).toEqual({ act, who: 'RT' })
  expect(last?.headers.get('If-Match')).toBe('"8"')
})

test('what is refused is told, and the check is looked at anew', async () => {
  const problem = { type: 'changed-meanwhile', title: 'Somebody was here meanwhile.', status: 412 }
  net.answers = () => Response.json(problem, { status: 412 })
  const { client, result } = acting()
  const anew = vi.spyOn(client, 'invalidateQueries')
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  await waitFor(() => expect(result.current.isError).toBe(true))
  expect(result.current.error?.problem).toEqual(problem)
  expect(anew).toHaveBeenCalledWith({ queryKey: ['check', 3, 'float'] })
  // It was told at the press: it is not told again among what was not taken.
  expect(outbox.now().refused).toEqual([])
})

test('without the server an act waits, says so, and goes once the server answers', async () => {
  net.answers = () => null
  const { client, result } = acting()
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  expect(await screen.findByText('Waits for the server: signed off.')).toBeDefined()
  expect(result.current.data).toBe('waits')
  expect(outbox.now().waiting.map((w) => [w.write.said, w.write.of])).toEqual([
    ['signed off', 'job 3, Input float'],
  ])
  net.answers = () => acted()
  await vi.waitFor(() => expect(outbox.now().waiting).toHaveLength(0), { timeout: 10_000 })
  expect(client.getQueryData(['check', 3, 'float'])).toEqual({ check_key: 'float', version: 8 })
}, 20_000)

test('nothing is signed behind anybody’s back: refused once the server answers, it is kept with what was pressed', async () => {
  net.answers = () => null
  const { client, result } = acting()
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  await waitFor(() => expect(result.current.data).toBe('waits'))
  const problem = { type: 'changed-meanwhile', title: 'This check has changed.', status: 412 }
  net.answers = () => Response.json(problem, { status: 412 })
  await vi.waitFor(() => expect(outbox.now().refused).toHaveLength(1), { timeout: 10_000 })
  expect(outbox.now().refused[0]?.[1].write.said).toBe('signed off')
  // Whoever looks again and sends it again does it on what is so now.
  client.setQueryData(['check', 3, 'float'], { version: 12 })
  net.answers = () => acted()
  outbox.again(outbox.now().refused[0]?.[0] ?? '')
  await vi.waitFor(() => expect(outbox.now().waiting).toHaveLength(0), { timeout: 10_000 })
  expect(sent().at(-1)?.headers.get('If-Match')).toBe('"12"')
}, 30_000)

test('sent by another window it is over here as well, and what is so now is asked for', async () => {
  // The other window has the sending: nothing goes from here.
  const locks = { request: () => new Promise(() => {}) }
  Object.defineProperty(navigator, 'locks', { value: locks, configurable: true })
  const { client, result } = acting()
  const anew = vi.spyOn(client, 'invalidateQueries')
  settle(() => result.current.mutate({ act: 'sign', reason: '' }))
  await waitFor(() => expect(outbox.now().waiting).toHaveLength(1))
  const [place] = Object.keys(localStorage).filter((name) => name.startsWith('dry-anvil.out.'))
  const oldValue = localStorage.getItem(place ?? '')
  localStorage.removeItem(place ?? '')
  settle(() => void dispatchEvent(new StorageEvent('storage', { key: place, oldValue, newValue: null })))
  await waitFor(() => expect(result.current.data).toBe('elsewhere'))
  expect(anew).toHaveBeenCalledWith({ queryKey: ['check', 3, 'float'] })
})
