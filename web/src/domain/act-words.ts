// What was pressed, in a line: said of what waits for the server.
import { partStateName } from './labels'
import type { Schemas } from './schema'

type Did =
  | Schemas['CheckAct']
  | Schemas['JobAct']
  | Schemas['BuildAct']
  | Schemas['PartAct']
  | Schemas['IdentityAct']
  | Schemas['DonorAct']

/** What an act is, in words; of a part its name follows, of a step that. */
export function actWords(did: Did): string {
  switch (did.act) {
    case 'read':
      return 'a reading'
    case 'way':
      return 'which way counts'
    case 'bench':
      return `box and parts at ${did.bench_c} °C`
    case 'tick':
      return `${did.done ? 'seen to' : 'not seen to'}: ${did.tick}`
    case 'mark':
      return 'a word on a reading'
    case 'fitted':
      return `fitted now: ${did.typed}`
    case 'aim':
      return 'set otherwise on this job'
    case 'usual':
      return did.counts ? 'count with the usual difference' : 'leave the usual difference out'
    case 'choose':
      return 'pieces chosen'
    case 'ground':
      return `ground to ${did.measured}`
    case 'let_go':
      return 'pieces let go'
    case 'fit':
      return 'pieces fitted'
    case 'undo_fit':
      return 'not fitted after all'
    case 'lay':
      return 'the pack laid out'
    case 'shims':
      return did.moved ? 'shims moved' : 'how the shims lie'
    case 'sign':
      return 'signed off'
    case 'reopen':
      return 'reopened'
    case 'note':
      return `noted: ${did.said}`
    case 'mark_note':
      return did.struck ? 'a note struck out' : 'a note restored'
    case 'card':
      return 'the card changed'
    case 'hand_over':
      return 'handed over'
    case 'put_away':
      return 'put away'
    case 'bring_back':
      return 'brought back'
    case 'began':
      return 'begun'
    case 'done':
      return 'done'
    case 'not_done':
      return 'not done after all'
    case 'skipped':
      return 'left out'
    case 'out':
      return 'out again'
    case 'proved':
      return `${did.ask} ${did.answer}`
    case 'shifted':
      return `${did.gear} tried`
    case 'passed_over':
      return 'passed over'
    case 'not_passed_over':
      return 'not passed over after all'
    case 'not_answered':
      return `not answered after all: ${did.ask}`
    case 'not_tried':
      return `${did.gear} not tried after all`
    case 'torn_back':
      return 'taken apart again'
    case 'left_off':
      return 'not taken apart any further'
    case 'found':
      return partStateName[did.state].toLowerCase()
    case 'taken_back':
    case 'supply_back':
      return 'taken back'
    case 'ordered':
      return 'ordered'
    case 'come':
      return 'here'
    case 'will_not_come':
      return 'will not come'
    case 'given':
      return 'given'
    case 'given_back':
      return 'back in its box'
    case 'shelved':
      return 'on the shelf'
    case 'off_shelf':
      return 'off the shelf'
    case 'answer':
      return `answered: ${did.answer || 'not seen'}`
    case 'take_back':
      return 'taken back'
    case 'take':
      return `${did.parts.length} ${did.parts.length === 1 ? 'part' : 'parts'} taken up`
    case 'shelve':
      return did.place ? `on the shelf: ${did.place}` : 'off the shelf'
  }
}
