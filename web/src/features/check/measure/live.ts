// What a gauge says, by WebSocket: the shop's, through the server; or one on this screen's own serial
// port, whose bytes go to the server to be read by the same reader.
import { useCallback, useEffect, useRef, useState } from 'react'
import type { Schemas } from '../../../domain/schema'

export type Told = Schemas['Told']

const NOTHING: Told = { state: 'unplugged', readings: 0, garbled: 0, resting: false }
const AGAIN_MS = 1000

interface Port {
  open: (options: { baudRate: number }) => Promise<void>
  close: () => Promise<void>
  readable: ReadableStream<Uint8Array> | null
}

/** The browser's serial ports, where it has them. */
export const serialPort = () => (navigator as { serial?: { requestPort: () => Promise<Port> } }).serial

const address = (path: string) => `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}${path}`

export function useLive(gaugeKey: string, serial: boolean) {
  const [told, setTold] = useState<Told>(NOTHING)
  const [trouble, setTrouble] = useState('')
  const socket = useRef<WebSocket | null>(null)
  useEffect(() => {
    let over = false
    let frame = 0
    let newest: Told | null = null
    let again: ReturnType<typeof setTimeout>
    let stop = () => {}
    // What comes between two frames is passed over: only the newest is drawn.
    const draw = () => {
      frame = 0
      if (newest) setTold(newest)
    }
    const connect = () => {
      const ws = new WebSocket(address(serial ? '/api/live-lines' : `/api/live/${gaugeKey}`))
      socket.current = ws
      ws.onmessage = (event) => {
        newest = JSON.parse(event.data as string) as Told
        if (!frame) frame = requestAnimationFrame(draw)
      }
      ws.onclose = () => {
        if (over) return
        newest = null
        setTold(NOTHING)
        if (!serial) again = setTimeout(connect, AGAIN_MS)
      }
      if (serial) ws.onopen = () => void readPort(ws)
    }
    const readPort = async (ws: WebSocket) => {
      try {
        const port = await serialPort()?.requestPort()
        if (!port) return
        await port.open({ baudRate: 9600 })
        const reader = port.readable?.getReader()
        stop = () => void reader?.cancel().finally(() => void port.close())
        setTrouble('')
        for (;;) {
          const { value, done } = (await reader?.read()) ?? { done: true }
          if (done || over) break
          if (value) ws.send(value)
        }
        if (!over) setTrouble('The serial port was closed: plug the gauge in again and choose it anew.')
      } catch (error) {
        setTrouble(`The serial port could not be read: ${(error as Error).message}`)
      }
      ws.close()
    }
    connect()
    return () => {
      over = true
      clearTimeout(again)
      cancelAnimationFrame(frame)
      stop()
      socket.current?.close()
      setTold(NOTHING)
    }
  }, [gaugeKey, serial])
  const clear = useCallback(() => {
    if (socket.current?.readyState === WebSocket.OPEN) socket.current.send('clear')
  }, [])
  return { told, clear, trouble }
}
