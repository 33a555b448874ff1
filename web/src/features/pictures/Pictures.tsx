// Pictures of a box, of a part or of a step: taken with the tablet's camera or from a file, small in a row, large when pressed.
import { useRef, useState } from 'react'
import type { Refused } from '../../api/client'
import { dayText, whenText } from '../../domain/units'
import { useNotice } from '../../ui/Notices'
import { Ask, Trouble } from '../../ui/Parts'
import { pictureSrc, useAddPicture, useMarkPicture, usePictures, type Picture, type PictureOf } from './acts'

interface Props {
  job: number
  /** What the pictures are of; all of the job's where nothing is named. */
  of?: PictureOf
  title: string
  open: boolean
}

const isOf = (picture: Picture, of: PictureOf) =>
  picture.part === (of.part ?? '') && picture.step === (of.step ?? '')

export function Pictures({ job, of, title, open }: Props) {
  const { data } = usePictures(job)
  const [shown, setShown] = useState<number | null>(null)
  const there = (data ?? []).filter((p) => !p.struck_by && (!of || isOf(p, of)))
  const large = there.find((p) => p.picture_no === shown)
  if (there.length === 0 && !open) return null
  return (
    <section aria-label={title} className="mt-5 print:hidden">
      <p className="text-lg font-bold">{title}</p>
      {there.length > 0 && (
        <ul className="mt-1 flex flex-wrap gap-2">
          {there.map((p) => (
            <li key={p.picture_no}>
              <button
                className="block border-[1.5px] border-dim"
                aria-label={`${p.of}${p.said && `: ${p.said}`}, larger`}
                onClick={() => setShown(p.picture_no)}
              >
                <img
                  className="h-28 w-auto max-w-full object-cover"
                  src={pictureSrc(job, p, true)}
                  width={Math.round((112 * p.width) / p.height)}
                  height={112}
                  loading="lazy"
                  alt={p.said || p.of}
                />
              </button>
            </li>
          ))}
        </ul>
      )}
      {open && <Take job={job} of={of ?? {}} />}
      {large && (
        <Large
          job={job}
          picture={large}
          open={open}
          place={`${there.indexOf(large) + 1} of ${there.length}`}
          onGo={(by) => {
            const at = (there.indexOf(large) + by + there.length) % there.length
            setShown(there[at]?.picture_no ?? null)
          }}
          onClose={() => setShown(null)}
        />
      )}
    </section>
  )
}

/** Takes a picture, or picks some; they are kept one after the other. */
function Take({ job, of }: { job: number; of: PictureOf }) {
  const add = useAddPicture(job)
  const [said, setSaid] = useState('')
  const [doing, setDoing] = useState<[number, number] | null>(null)
  const camera = useRef<HTMLInputElement>(null)
  const files = useRef<HTMLInputElement>(null)
  const keep = async (list: FileList | null, input: HTMLInputElement) => {
    const all = [...(list ?? [])]
    try {
      for (const [i, file] of all.entries()) {
        setDoing([i + 1, all.length])
        await add.mutateAsync({ file, of, said: said.trim() || undefined })
      }
      setSaid('')
    } catch {
      // What is wrong is told below; what was kept before it stays.
    } finally {
      setDoing(null)
      input.value = ''
    }
  }
  const input = (ref: typeof camera, props: React.ComponentProps<'input'>) => (
    <input
      ref={ref}
      type="file"
      accept="image/*"
      hidden
      onChange={(e) => void keep(e.target.files, e.target)}
      {...props}
    />
  )
  return (
    <>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <label className="text-sm font-semibold">
          What it shows, if that is not plain
          <input
            className="field mt-1 block w-64 max-w-full font-normal"
            maxLength={200}
            value={said}
            onChange={(e) => setSaid(e.target.value)}
          />
        </label>
        {input(camera, { capture: 'environment', 'aria-label': 'Picture from the camera' })}
        {input(files, { multiple: true, 'aria-label': 'Pictures from files' })}
        <button
          type="button"
          className="press-quiet"
          disabled={doing != null}
          onClick={() => camera.current?.click()}
        >
          Take a picture
        </button>
        <button
          type="button"
          className="press-quiet"
          disabled={doing != null}
          onClick={() => files.current?.click()}
        >
          From files
        </button>
      </div>
      <p role="status" className="min-h-6">
        {doing && `Keeping ${doing[1] > 1 ? `picture ${doing[0]} of ${doing[1]}` : 'the picture'}…`}
      </p>
      <Trouble error={add.error} />
    </>
  )
}

function Large({
  job,
  picture,
  open,
  place,
  onGo,
  onClose,
}: {
  job: number
  picture: Picture
  open: boolean
  place: string
  onGo: (by: number) => void
  onClose: () => void
}) {
  const mark = useMarkPicture(job)
  const notice = useNotice()
  const error: Refused | null = mark.error
  return (
    <Ask open onClose={onClose} title={picture.of} wide>
      {/* eslint-disable-next-line jsx-a11y/no-static-element-interactions -- keys bubble up from the presses in it */}
      <div
        onKeyDown={(e) => {
          if (e.key === 'ArrowRight') onGo(1)
          if (e.key === 'ArrowLeft') onGo(-1)
        }}
      >
        <img
          className="max-h-[65vh] w-full bg-card object-contain"
          src={pictureSrc(job, picture, false)}
          width={picture.width}
          height={picture.height}
          alt={picture.said || picture.of}
        />
        <p className="mt-2">
          {picture.said && <strong>{picture.said} · </strong>}
          <span className="text-dim">
            {picture.who}, {whenText(picture.at)} · {place}
          </span>
        </p>
        <Trouble error={error} />
        <div className="mt-3 flex flex-wrap justify-end gap-3">
          {open && (
            <button
              className="link mr-auto min-h-12"
              disabled={mark.isPending}
              onClick={() =>
                mark.mutate(
                  { picture, struck: true },
                  {
                    onSuccess: (fresh) => {
                      onClose()
                      const gone = fresh.find((p) => p.picture_no === picture.picture_no)?.gone_at
                      notice({
                        said: `The picture is taken out${gone ? `, and gone for good on ${dayText(gone)}` : ''}.`,
                        undo: () => mark.mutateAsync({ picture, struck: false }),
                      })
                    },
                  },
                )
              }
            >
              Take it out
            </button>
          )}
          <button className="press-quiet" onClick={() => onGo(-1)}>
            ← Back
          </button>
          <button className="press-quiet" onClick={() => onGo(1)}>
            On →
          </button>
          <button className="press" onClick={onClose}>
            Close
          </button>
        </div>
      </div>
    </Ask>
  )
}

/** All pictures of a job with what each shows, to print. */
export function PrintedPictures({ job }: { job: number }) {
  const { data } = usePictures(job)
  const there = (data ?? []).filter((p) => !p.struck_by)
  if (there.length === 0) return null
  return (
    <section aria-label="Pictures" className="mt-6">
      <h2 className="border-b-2 border-ink text-xl">Pictures</h2>
      <div className="mt-2 grid gap-4 sm:grid-cols-2 print:grid-cols-2">
        {there.map((p) => (
          <figure key={p.picture_no} className="break-inside-avoid">
            <img
              className="h-auto w-full border border-line"
              src={pictureSrc(job, p, false)}
              width={p.width}
              height={p.height}
              alt={p.said || p.of}
            />
            <figcaption>
              <strong>{p.of}</strong>
              {p.said && `: ${p.said}`}
            </figcaption>
          </figure>
        ))}
      </div>
    </section>
  )
}
