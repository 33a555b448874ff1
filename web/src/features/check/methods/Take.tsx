// One reading by one method: the form that follows the hands. Each keeps the focus where the next
// figure goes, so that a gauge which types its figure and Enter needs no click.
import type { ComponentType } from 'react'
import type { Method } from '../../../domain/readings'
import { AnswerForm } from './AnswerForm'
import { DepthForm } from './DepthForm'
import { HandForm } from './HandForm'
import { LeafForm } from './LeafForm'
import { PinionForm } from './PinionForm'
import { SelectorForm } from './SelectorForm'
import { ShimForm } from './ShimForm'
import { TermForm } from './TermForm'
import { ToothForm } from './ToothForm'
import { TorqueForm } from './TorqueForm'
import { TravelForm } from './TravelForm'
import { Entering, type Fault, type TakeProps } from './parts'

/** The form of each method. */
const FORMS: Record<Method, ComponentType<TakeProps>> = {
  dial_travel: TravelForm,
  no_shim: TravelForm,
  feeler: LeafForm,
  depth_from_bar: DepthForm,
  stack_sum: TermForm,
  known_shim: ShimForm,
  turning_torque: TorqueForm,
  one_by_one: PinionForm,
  at_teeth: ToothForm,
  selector_gaps: SelectorForm,
  yes_no: AnswerForm,
  by_hand: HandForm,
}

export function Take({
  fault,
  clearFault,
  ...props
}: TakeProps & { fault: Fault | null; clearFault: () => void }) {
  const MethodForm = FORMS[props.way]
  return (
    <Entering.Provider value={{ fault, clearFault }}>
      <MethodForm {...props} />
    </Entering.Provider>
  )
}
