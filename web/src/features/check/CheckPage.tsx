// One check on one screen, in the order of the work: measure, choose, confirm.
import { useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { CheckView, Schemas } from '../../domain/schema'
import { useCheckAct } from '../../ui/acts'
import { useGap } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { ProofMark } from '../../charts/ProofMark'
import { SlotGauge } from '../../charts/SlotGauge'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { Choose } from './choose/Choose'
import { Confirm } from './confirm/Confirm'
import { History } from './History'
import { Measure } from './measure/Measure'
import { PackPanel } from './pack/PackPanel'
import { Shims } from './methods/Shims'
import { HotPlot } from '../../charts/HotPlot'
import { TorqueGauge } from '../../charts/TorqueGauge'
import { Company } from './Company'
import { Loud } from './Loud'
import { OffBy } from './OffBy'
import { Neighbours } from './Neighbours'
import { ToldOf } from './Told'
import { useFocusAfter } from './where-next'

export function CheckPage() {
  const params = useParams()
  const jobNo = Number(params.jobNo)
  const { data, error } = useGap(jobNo, params.checkKey ?? '')
  const check = useSoon(data)
  useTitle(check ? `${check.name}, job ${jobNo}` : undefined)
  if (!check && error) return <Trouble error={error as unknown as Refused} />
  if (!check) return <Loading what="the check" />
  return <GapScreen key={`${jobNo}/${check.check_key}`} check={check} />
}

/** What the pin of what is known is called: by the sheet alone nothing is measured. */
function pinLabel(check: CheckView, estimate: Schemas['Estimate']) {
  if (check.pinions) return 'worst'
  if (!estimate.signs) return 'by hand'
  return estimate.readings === 0 ? 'by the sheet' : 'measured'
}

/** What the pieces that are in were to give, where nothing moves and the verdict goes by that. */
function expectedOf({ verdict }: CheckView) {
  if (!verdict?.expected) return null
  const { call, expanded_nm, expected } = verdict
  return { nm: expected.clearance_nm, expanded_nm, call, label: 'expected' }
}

function GapScreen({ check }: { check: CheckView }) {
  const act = useCheckAct(check)
  const open = check.setting?.state === 'chosen' ? check.setting : null
  const first = check.offered[0]?.choice ?? check.choices?.ranked[0]
  const best = !check.signed && check.phase === 'choose' ? first : undefined
  const predicted = open
    ? { nm: open.predicted_nm, expanded_nm: open.expanded_nm, label: 'expected', call: open.lands }
    : best && {
        nm: best.predicted_nm,
        expanded_nm: best.expanded_nm,
        label: 'best gives',
        call: best.lands,
      }
  useFocusAfter(act)
  return (
    <main className="check-page">
      <div className="check-loud border-line md:border-b">
        <Neighbours jobNo={check.job_no} checkKey={check.check_key} />
        <Company check={check} />
        <Loud check={check} act={act} />
        <OffBy check={check} />
        <ToldOf jobNo={check.job_no} checkKey={check.check_key} />
        <Trouble error={act.error} />
      </div>
      <Measure check={check} act={act} />
      <div className="check-gauge min-w-0 overflow-hidden border-b border-line px-3 pt-2 sm:px-6">
        {check.aim ? (
          <SlotGauge
            window={check.window}
            aim={check.aim}
            kind={check.kind}
            measured={
              check.estimate && check.verdict
                ? {
                    nm: check.estimate.clearance_nm,
                    expanded_nm: check.verdict.expanded_nm,
                    call: check.verdict.call,
                    label: pinLabel(check, check.estimate),
                  }
                : check.verdict?.bound && !check.verdict.expected
                  ? {
                      nm: check.verdict.bound.limit_nm,
                      expanded_nm: 0,
                      call: check.verdict.call,
                      label: check.verdict.bound.lies === 'above' ? 'at least' : 'at most',
                    }
                  : null
            }
            predicted={predicted ?? expectedOf(check)}
            edge={check.groove && { nm: check.groove.edge_nm, label: 'groove' }}
          />
        ) : check.proof ? (
          <ProofMark proof={check.proof} />
        ) : (
          <TorqueGauge check={check} />
        )}
      </div>
      <PackPanel check={check} act={act} />
      {check.selector ? <Shims check={check} act={act} /> : <Choose check={check} act={act} />}
      <Confirm check={check} act={act} />
      <div className="check-below far">
        <HotPlot check={check} />
        <History check={check} />
      </div>
    </main>
  )
}
