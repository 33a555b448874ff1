import { useShop } from '../api/queries'
import { useBench } from '../domain/session'
import { Ask } from './Parts'

/** Who is at the bench: goes on every record. */
export function AskWho({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { data: shop } = useShop()
  const { who, setWho, theme, setTheme } = useBench()
  return (
    <Ask open={open} onClose={onClose} title="Who is at the bench?">
      <p className="mb-4 text-dim">The initials go on every reading, choice and signature from here on.</p>
      <div className="grid gap-2">
        {shop?.people.map((p) => (
          <button
            key={p.initials}
            className={`flex min-h-14 items-center gap-4 border-[1.5px] border-ink px-4 text-left ${p.initials === who ? 'bg-blue-soft' : ''}`}
            onClick={() => {
              setWho(p.initials)
              onClose()
            }}
          >
            <span className="figure w-14 text-xl font-bold">{p.initials}</span>
            <span>{p.name}</span>
          </button>
        ))}
      </div>
      <button
        className="link mt-5 min-h-12 sm:hidden"
        onClick={() => setTheme(theme === 'dark' ? 'light' : 'dark')}
      >
        {theme === 'dark' ? 'Light theme' : 'Dark theme'}
      </button>
    </Ask>
  )
}
