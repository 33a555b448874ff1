// What rows have in common that are entered in a sum one below the other, and kept as lines of text.
import type { ReactNode } from 'react'

/** What is typed in one field, without what divides fields and lines. */
export const inOneField = (typed: string) => typed.replace(/[:;\n]/g, '')

/** Takes a row out. */
export function TakeOut({
  what,
  disabled,
  onPress,
}: {
  what: string
  disabled: boolean
  onPress: () => void
}) {
  return (
    <button
      type="button"
      className="min-h-12 w-11 font-bold"
      disabled={disabled}
      aria-label={`Take out ${what}`}
      onClick={onPress}
    >
      ×
    </button>
  )
}

/** Adds a row below the last, and says what is wrong in those there are. */
export function AddRow({
  children,
  onPress,
  fault,
}: {
  children: ReactNode
  onPress: () => void
  fault: string | undefined
}) {
  return (
    <>
      <button type="button" className="press-quiet mt-1" onClick={onPress}>
        {children}
      </button>
      {fault && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {fault}
        </p>
      )}
    </>
  )
}
