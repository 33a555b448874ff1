// @vitest-environment happy-dom
// Sharing out comes back a line at a time, cut wherever the network cuts it.
import { act, renderHook, waitFor } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { useShare } from './allocate'

afterEach(() => vi.unstubAllGlobals())

/** A server that answers with these chunks, the last when it is let go. */
function serve(chunks: string[], status = 200) {
  const asked: { body: unknown; signal: AbortSignal }[] = []
  let letGo = () => {}
  vi.stubGlobal('fetch', async (request: Request) => {
    asked.push({ body: await request.json(), signal: request.signal })
    const bytes = new TextEncoder()
    const body = new ReadableStream<Uint8Array>({
      async start(stream) {
        for (const chunk of chunks.slice(0, -1)) stream.enqueue(bytes.encode(chunk))
        await new Promise<void>((done) => (letGo = done))
        stream.enqueue(bytes.encode(chunks.at(-1) ?? ''))
        stream.close()
      },
    })
    return new Response(body, { status })
  })
  return { asked, finish: () => act(() => Promise.resolve(letGo())) }
}

test('progress is shown while it runs, then the result', async () => {
  const line = JSON.stringify({ progress: { nodes: 120 } })
  const { asked, finish } = serve([line.slice(0, 7), `${line.slice(7)}\n{"sha`, 'red":{"lines":[]}}\n'])
  const { result } = renderHook(() => useShare(4, []))
  await waitFor(() => expect(result.current.progress).toEqual({ nodes: 120 }))
  expect(result.current.running).toBe(true)
  expect(result.current.view).toBeNull()
  await finish()
  await waitFor(() => expect(result.current.running).toBe(false))
  expect(result.current.view).toEqual({ lines: [] })
  expect(asked.map((a) => a.body)).toEqual([{ job_no: 4, pinned: [] }])
})

test('waiting for its turn is told until it has it', async () => {
  const { finish } = serve([
    '{"waiting":{"before":2}}\n',
    '{"progress":{"nodes":1}}\n{"shared":{"lines":[]}}\n',
  ])
  const { result } = renderHook(() => useShare(4, []))
  await waitFor(() => expect(result.current.before).toBe(2))
  expect(result.current.running).toBe(true)
  await finish()
  await waitFor(() => expect(result.current.running).toBe(false))
  expect(result.current.before).toBeNull()
})

test('a problem in the middle is told, and what was there before stays', async () => {
  const problem = { type: 'busy', title: 'Too much at once.', status: 503 }
  const { finish } = serve(['{"shared":{"lines":[1]}}\n', `${JSON.stringify({ problem })}\n`])
  const { result } = renderHook(() => useShare(undefined, []))
  await waitFor(() => expect(result.current.view).toEqual({ lines: [1] }))
  await finish()
  await waitFor(() => expect(result.current.error?.problem).toEqual(problem))
  expect(result.current.running).toBe(false)
  expect(result.current.view).toEqual({ lines: [1] })
})

test('a refusal before it begins is told by its title', async () => {
  const { finish } = serve(['', '{"type":"gone","title":"There is no job 9.","status":404}'], 404)
  const { result } = renderHook(() => useShare(9, []))
  await waitFor(() => expect(result.current.running).toBe(true))
  await new Promise((done) => setTimeout(done, 5))
  await finish()
  await waitFor(() => expect(result.current.error?.message).toBe('There is no job 9.'))
})

test('stopped, it asks the server no further', async () => {
  const { asked } = serve(['{"progress":{"nodes":1}}\n', ''])
  const { result } = renderHook(() => useShare(4, []))
  await waitFor(() => expect(result.current.progress).not.toBeNull())
  act(() => result.current.stop())
  expect(asked[0]?.signal.aborted).toBe(true)
  expect(result.current).toMatchObject({ running: false, progress: null, error: null })
})
