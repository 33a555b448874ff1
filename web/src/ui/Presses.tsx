/** The presses under a form that is laid over a view: leave it as it was, or send it. */
export function Presses({
  onClose,
  pending = false,
  press,
}: {
  onClose: () => void
  pending?: boolean
  press: string
}) {
  return (
    <div className="flex justify-end gap-3">
      <button type="button" className="press-quiet" onClick={onClose}>
        Leave it
      </button>
      <button className="press" disabled={pending}>
        {press}
      </button>
    </div>
  )
}
