// A sheet of paper laid over the bench.
import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

export interface SheetProps {
  onClose: () => void
  title: string
  children: ReactNode
}

export function Sheet({ onClose, title, children }: SheetProps) {
  return (
    <Dialog.Root open onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[min(34rem,94vw)] -translate-x-1/2 overflow-y-auto border-2 border-ink bg-paper p-5 sm:p-6"
        >
          <Dialog.Title className="mb-3 text-xl">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
