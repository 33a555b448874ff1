import { useMutation } from '@tanstack/react-query'
import { useRef } from 'react'
import type { Refused } from '../api/client'
import { Ask, Trouble } from './Parts'

interface Props<T> {
  label: string
  accept: string
  send: (file: File) => Promise<T>
  done: (result: T) => string
  onDone: (result: T) => void
}

/** Takes a file in; what was refused is shown with every fault in its place. */
export function ImportFile<T>({ label, accept, send, done, onDone }: Props<T>) {
  const input = useRef<HTMLInputElement>(null)
  const taking = useMutation<T, Refused, File>({
    mutationFn: send,
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
