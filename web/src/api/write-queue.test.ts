import { expect, test } from 'vitest'
import { MOST_FAULTS, WriteQueue, type QueueParts, type Waiting } from './write-queue'

class Gone extends Error {}
/** The server is there, and fails. */
class Fault extends Gone {}

/** A queue on a server that answers as told, in turn; afterwards all is well. */
function queue(answers: (Error | 'ok')[], left: Waiting<string>[] = []) {
  const told = {
    sent: [] as string[],
    kept: [] as string[][],
    refused: [] as string[],
    pauses: 0,
    changes: 0,
  }
  const parts: QueueParts<string, string> = {
    send: ({ key, write }) => {
      told.sent.push(`${key}:${write}`)
      const next = answers.shift() ?? 'ok'
      return next === 'ok' ? Promise.resolve(write) : Promise.reject(next)
    },
    isOutOfReach: (error) => error instanceof Gone,
    isFault: (error) => error instanceof Fault,
    list: () => left,
    keep: (one) => {
      left = [...left, one]
      told.kept.push(left.map((w) => w.write))
    },
    drop: (key) => {
      left = left.filter((w) => w.key !== key)
      told.kept.push(left.map((w) => w.write))
    },
    alone: (work) => work(),
    onKept: () => {},
    onChange: () => (told.changes += 1),
    pause: () => {
      told.pauses += 1
      return Promise.resolve()
    },
  }
  const made = new WriteQueue(parts)
  made.refusalsGoTo((one) => told.refused.push(one.write))
  return { queue: made, told }
}

const settled = async () => {
  for (let i = 0; i < 50; i++) await Promise.resolve()
}

test('writes go in their order, one after another, and are kept until the server has them', async () => {
  const { queue: q, told } = queue([])
  q.add({ key: 'a', write: '1' })
  q.add({ key: 'b', write: '2' })
  expect(told.kept.at(-1)).toEqual(['1', '2'])
  await settled()
  expect(told.sent).toEqual(['a:1', 'b:2'])
  expect(told.kept.at(-1)).toEqual([])
  expect(q.waiting).toEqual([])
})

test('a server that is gone is told, and the same write goes again under the same key', async () => {
  const { queue: q, told } = queue([new Gone(), new Gone()])
  q.add({ key: 'a', write: '1' })
  await settled()
  expect(told.sent).toEqual(['a:1', 'a:1', 'a:1'])
  expect(told.pauses).toBe(2)
  expect(q.unreachable).toBe(false)
})

test('a refused write waits no longer, and the next one goes on', async () => {
  const { queue: q, told } = queue([new Error('no figure')])
  q.add({ key: 'a', write: 'x' })
  q.add({ key: 'b', write: '2' })
  await settled()
  expect(told.refused).toEqual(['x'])
  expect(told.sent).toEqual(['a:x', 'b:2'])
})

test('what was left waiting goes first when the screen is opened again', async () => {
  const { queue: q, told } = queue([], [{ key: 'old', write: '0' }])
  q.add({ key: 'new', write: '1' })
  await settled()
  expect(told.sent).toEqual(['old:0', 'new:1'])
})

test('once nobody looks, nothing more is sent, and what waits stays kept', async () => {
  const { queue: q, told } = queue([new Gone(), new Gone()])
  q.add({ key: 'a', write: '1' })
  await Promise.resolve()
  q.stop()
  await settled()
  expect(q.waiting).toHaveLength(1)
  expect(told.sent.length).toBeLessThan(3)
  await q.run()
  expect(q.waiting).toEqual([])
})

test('one window sends at a time, and what the other typed goes in its turn', async () => {
  const shared = { list: [] as Waiting<string>[], sent: [] as string[], last: Promise.resolve() }
  const window = (name: string) =>
    new WriteQueue<string, string>({
      send: async ({ key, write }) => {
        shared.sent.push(`${name} begins ${key}`)
        await Promise.resolve()
        shared.sent.push(`${name} ends ${key}`)
        return write
      },
      isOutOfReach: () => false,
      isFault: () => false,
      list: () => shared.list,
      keep: (one) => (shared.list = [...shared.list, one]),
      drop: (key) => (shared.list = shared.list.filter((w) => w.key !== key)),
      alone: (work) => (shared.last = shared.last.then(work)),
      onKept: () => {},
      onChange: () => {},
      pause: () => Promise.resolve(),
    })
  const [one, two] = [window('one'), window('two')]
  one.add({ key: 'a', write: '1' })
  two.add({ key: 'b', write: '2' })
  one.add({ key: 'c', write: '3' })
  await settled()
  expect(shared.sent.filter((s) => s.includes('begins')).map((s) => s.at(-1))).toEqual(['a', 'b', 'c'])
  // Nothing begins before the last has ended.
  shared.sent.forEach((s, at) => expect(s.includes(at % 2 === 0 ? 'begins' : 'ends')).toBe(true))
  expect(shared.list).toEqual([])
})

test('what the server fails at again and again is given up, so that the others go on', async () => {
  const faults = Array.from({ length: MOST_FAULTS }, () => new Fault())
  const { queue: q, told } = queue([new Gone(), ...faults])
  q.add({ key: 'a', write: '1' })
  q.add({ key: 'b', write: '2' })
  await q.run()
  expect(told.refused).toEqual(['1'])
  expect(told.sent.at(-1)).toBe('b:2')
  expect(told.sent.filter((one) => one === 'a:1')).toHaveLength(1 + MOST_FAULTS)
})

test('what comes in the moment that the queue is done with goes too', async () => {
  for (let ticks = 0; ticks < 16; ticks++) {
    const { queue: q, told } = queue([])
    void q.run()
    for (let tick = 0; tick < ticks; tick++) await Promise.resolve()
    q.add({ key: 'a', write: '1' })
    await settled()
    expect(told.sent, `${ticks} ticks after`).toEqual(['a:1'])
  }
})
