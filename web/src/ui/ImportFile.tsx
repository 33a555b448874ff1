import { useMutation } from '@tanstack/react-query'
import { useRef } from 'react'
import { Refused, lost } from '../api/client'
import { Ask, Trouble } from './Parts'
import { useBench } from './bench-state'

interface Props<T> {
  label: string
  accept: string
  send: (text: string) => Promise<T>
  done: (result: T) => string
  onDone: (result: T) => void
}

/** The most the server takes. */
const LARGEST = 2 * 1024 * 1024

/** Takes a file in; what was refused is shown with every fault in its place. */
export function ImportFile<T>({ label, accept, send, done, onDone }: Props<T>) {
  const { who } = useBench()
  const input = useRef<HTMLInputElement>(null)
  const taking = useMutation<T, Refused, File>({
    mutationFn: async (file) => {
      const refuse = (title: string) => new Refused({ ...lost, status: 422, type: 'faulty-file', title })
      if (!who) throw refuse('Nobody is at the bench: choose your initials, at the top right.')
      if (file.size > LARGEST) {
        throw refuse(
          `${file.name} has ${(file.size / 1048576).toFixed(1)} MB; the most that is taken is 2 MB. Nothing was taken from it.`,
        )
      }
      return send(await file.text())
    },
    onSuccess: onDone,
  })
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0]
          e.target.value = ''
          if (file) taking.mutate(file)
        }}
      />
      <button className="press-quiet" disabled={taking.isPending} onClick={() => input.current?.click()}>
        {taking.isPending ? 'Taking it in …' : label}
      </button>
      <Ask
        open={!taking.isIdle && !taking.isPending}
        onClose={() => taking.reset()}
        title={taking.isError ? 'Nothing was taken in' : 'Taken in'}
      >
        <Trouble error={taking.error} />
        {taking.data !== undefined && <p className="text-lg">{done(taking.data)}</p>}
        <div className="mt-4 flex justify-end">
          <button className="press" onClick={() => taking.reset()}>
            Done
          </button>
        </div>
      </Ask>
    </>
  )
}
