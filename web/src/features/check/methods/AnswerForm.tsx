// A question answered yes or no by hand.
import { answerName } from '../../../domain/labels'
import { Form, type TakeProps } from './parts'

export function AnswerForm({ check, onTake, first }: TakeProps) {
  return (
    <Form onEnter={() => {}} hint="Y and N answer as well. What was answered last is what is so now.">
      {/* Where the keys go: a press of Y or N is an answer, like the press of a button. */}
      <input
        ref={first}
        className="sr-only"
        aria-label="Y for yes, N for no"
        value=""
        onChange={() => {}}
        onKeyDown={(e) => {
          const answer = { y: 'yes', n: 'no' }[e.key.toLowerCase()]
          if (answer) onTake({ kind: 'answer', answer: answer as 'yes' | 'no' })
        }}
      />
      <div className="flex gap-2">
        {(['yes', 'no'] as const).map((answer) => (
          <button
            key={answer}
            type="button"
            className={`${answer === check.proof?.wanted ? 'press' : 'press-quiet'} min-w-24 flex-1`}
            onClick={() => {
              onTake({ kind: 'answer', answer })
              first.current?.focus({ preventScroll: true })
            }}
          >
            {answerName[answer]}
          </button>
        ))}
      </div>
    </Form>
  )
}
