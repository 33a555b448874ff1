// The shim under a retainer's plate, for the pinch it gives the bearing.
import { answer, server } from '../../api/client'
import { Working } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { Field } from '../../ui/Field'
import { Big, Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { useFields, useSum } from './fields'

export function Pinch() {
  const { unit } = useBench()
  const { fields, set } = useFields({ off: '7 thou', pinch: '2.6 thou', fitted: '' })
  const { data, error, fault } = useSum('pinch', fields, (unit) =>
    answer(server.POST('/api/calc/pinch', { body: { ...fields, unit } })),
  )
  const field = (name: keyof typeof fields, label: string, hint?: string) => (
    <Field label={label} value={fields[name]} onChange={set(name)} fault={fault(name)} hint={hint} />
  )
  const u = unitName[unit]
  return (
    <Layout
      error={error}
      form={
        <>
          {field(
            'off',
            'The plate stands off the case by',
            'Plate pressed home on the bearing by hand; feeler between plate and case, at several places.',
          )}
          {field('pinch', 'Pinch wanted')}
          {field('fitted', 'Shim under it now', 'Empty: none.')}
        </>
      }
    >
      {data && (
        <>
          <Big figure={show(Math.max(data.thickness_nm, 0), unit)} id="pinch-shim">
            {u} under the plate
          </Big>
          {data.thickness_nm < 0 && (
            <p className="mt-1 text-lg font-bold text-oxide">
              △ It lacks {show(-data.thickness_nm, unit)} {u} even with no shim: a shim behind the bearing, or
              another plate.
            </p>
          )}
          <Picture />
          <Working lines={data.working} />
          <PutOnLog
            said={`Retainer pinch: plate ${fields.off} off the case, ${fields.pinch} pinch wanted: ${show(data.thickness_nm, unit)} ${u} under the plate.`}
          />
        </>
      )}
    </Layout>
  )
}

/** Plate, bearing and case in section; what is measured, and where the shim goes. */
function Picture() {
  const line = { stroke: 'var(--ink)', strokeWidth: 2 }
  return (
    <svg
      viewBox="0 0 420 170"
      className="my-3 block w-full max-w-lg"
      role="img"
      aria-label="The plate rests on the bearing and stands off the case; the shim goes between plate and case"
    >
      <path d="M10 70H150V160H10Z M270 70H410V160H270Z" fill="var(--steel)" {...line} />
      <rect x="150" y="52" width="120" height="108" fill="var(--card)" {...line} />
      <path d="M150 52L270 160M270 52L150 160" stroke="var(--steel-line)" strokeWidth="2" />
      <rect x="30" y="28" width="360" height="24" fill="var(--brass-soft)" {...line} />
      <rect
        x="42"
        y="53"
        width="96"
        height="16"
        fill="var(--blue-soft)"
        stroke="var(--blue)"
        strokeDasharray="5 4"
      />
      <rect
        x="282"
        y="53"
        width="96"
        height="16"
        fill="var(--blue-soft)"
        stroke="var(--blue)"
        strokeDasharray="5 4"
      />
      <g fontSize="15" fill="var(--ink)" textAnchor="middle">
        <text x="210" y="46" fontWeight="700">
          plate
        </text>
        <text x="210" y="112" fontWeight="700">
          bearing
        </text>
        <text x="80" y="120">
          case
        </text>
        <text x="330" y="16" fill="var(--dim)">
          shim, where it stands off
        </text>
      </g>
    </svg>
  )
}
