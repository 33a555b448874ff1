// A sheet of paper laid over the bench.
import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

export interface SheetProps {
  onClose: () => void
  title: string
  /** For a picture: as wide as there is room. */
  wide?: boolean
  /** It comes unasked: the focus is on the sheet, so that an Enter meant for what was before presses nothing on it. */
  unasked?: boolean
  children: ReactNode
}

export function Sheet({ onClose, title, wide = false, unasked = false, children }: SheetProps) {
  return (
    <Dialog.Root open onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          onOpenAutoFocus={(e) => {
            if (!unasked) return
            e.preventDefault()
            ;(e.target as HTMLElement).focus()
          }}
          className={`fixed left-1/2 z-50 -translate-x-1/2 overflow-y-auto border-2 border-ink bg-paper p-5 sm:p-6 ${wide ? 'top-[3vh] max-h-[94vh] w-[min(68rem,96vw)]' : 'top-[8vh] max-h-[84vh] w-[min(34rem,94vw)]'}`}
        >
          <Dialog.Title className="mb-3 text-xl">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
